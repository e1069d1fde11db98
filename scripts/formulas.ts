import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { formulaToAssemblyScript, KERNEL_HEAD } from '../core/formula/assemblyScript';
import { STEP_KINDS } from '../core/steps';

/** Generates the kernel's functions of all spatial steps from their formulas, for its compiler. */
const out = join(__dirname, '..', 'core', 'program', 'cpu', 'wasm', 'formulas.ts');
const functions = STEP_KINDS.flatMap(({ formula }) => (formula ? [formulaToAssemblyScript(formula)] : []));
writeFileSync(out, [KERNEL_HEAD, ...functions].join('\n'));
