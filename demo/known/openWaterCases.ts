import { measureOpenWater } from './measure';
import { isProgram } from './ownProcess';
import { fetchPhotographs, type Part } from './photographs';

/**
 * Measures corrections of open water and of objects in front of it on known cases: `npm run known:open-water -- [part]
 * [first seed] [cases]`. Mean CIEDE2000 to the truth, in which open water keeps its recorded colour and light.
 */
function main([part = 'aside', from = '750000', count = '30']: string[]): void {
  fetchPhotographs([part as Part]);
  const mean = (values: readonly number[]): string =>
    (values.reduce((a, b) => a + b, 0) / Math.max(1, values.length)).toFixed(2);
  const all = Array.from({ length: Number(count) }, (_, i) => {
    const seed = Number(from) + i;
    const measured = measureOpenWater({ seed, part: part as Part });
    const { offered, without } = measured;
    const line = (['water', 'things'] as const).map((k) => `${k} ${without[k].toFixed(1)} → ${offered[k].toFixed(1)}`);
    console.log(`${seed}: ${line.join(', ')}`);
    return measured;
  });
  for (const k of ['water', 'things'] as const)
    console.log(
      `${k}: ${mean(all.map((m) => m.without[k]))} with none kept, ${mean(all.map((m) => m.offered[k]))} as offered`,
    );
}

if (isProgram('openWaterCases')) main(process.argv.slice(2));
