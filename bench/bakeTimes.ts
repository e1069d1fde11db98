import { bake } from '@inkavo/core/program/bake';
import { compile, tableOf } from '@inkavo/core/program/compile';
import { EIGHT, median, ms, ONE, TWELVE } from './grades';

/** Bake times by size, and of twelve steps relative to one. */
export function benchBake(): void {
  const time = (steps: typeof EIGHT, size: number): number => {
    const pass = tableOf(compile(steps, 0));
    const times: number[] = [];
    for (let i = 0; i < (size > 40 ? 3 : 7); i += 1) {
      const t = performance.now();
      bake(pass, size);
      times.push(ms(t));
    }
    return median(times);
  };
  const reference = time(EIGHT, 17);
  for (const size of [17, 33, 65]) {
    const t = time(EIGHT, size);
    console.log(`bake, eight steps, ${size}³: ${t.toFixed(0)} ms, ${(t / reference).toFixed(1)} of 17³`);
  }
  console.log(
    `bake, 33³: twelve steps ${(time(TWELVE, 33) / time(ONE, 33)).toFixed(2)} of one step (a frame costs the same with both)`,
  );
}
