/**
 * Temporal noise reduction (AssemblyScript, WebAssembly with SIMD). `reduce.ts` and `motion.ts` are the reference
 * implementation and describe the algorithm; numbers are floats here, doubles there.
 */
export { setNoiseFormat } from './format';
export { halve, refine, searchLevel, toBytes } from './motion';
export { fineNoise, residuals } from './level';
export { average } from './average';
