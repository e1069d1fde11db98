import { benchBake } from './bakeTimes';
import { benchCamera } from './cameraTimes';
import { benchExport } from './exportTimes';
import { benchFields } from './fieldTimes';
import { benchFirstMinute } from './firstMinute';
import { benchKernel } from './kernelTimes';
import { load } from './load';
import { benchMemory } from './memory';
import { benchOuting } from './outing';
import { soak } from './soak';

/** Prints ratios relative to references measured in the same run. Arguments select benchmarks by name. */
const BENCHMARKS: Record<string, () => Promise<void> | void> = {
  kernel: benchKernel,
  bake: benchBake,
  fields: benchFields,
  memory: benchMemory,
  export: benchExport,
  camera: benchCamera,
  'first-minute': benchFirstMinute,
  load,
  outing: benchOuting,
  soak,
};

async function main(): Promise<void> {
  const wanted = process.argv.slice(2);
  for (const [name, run] of Object.entries(BENCHMARKS)) {
    if (wanted.length === 0 || wanted.includes(name)) await run();
  }
}

main().catch((error: Error) => {
  console.error(error);
  process.exitCode = 1;
});
