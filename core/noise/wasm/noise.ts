/**
 * Noise reduction over time (AssemblyScript, WebAssembly with SIMD). `reduce.ts` and `motion.ts` are its oracle, and say
 * what it does; numbers are floats here, where theirs are doubles.
 */
export { setNoiseFormat } from './format';
export { halve, refine, searchLevel, toBytes } from './motion';
export { fineNoise, residuals } from './level';
export { average } from './average';
