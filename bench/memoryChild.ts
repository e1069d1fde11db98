import { rmSync } from 'node:fs';
import { probe } from '@inkavo/media/codec';
import { exportClip } from '@inkavo/media/export/exportClip';
import { EIGHT } from './grades';

/** Exports the first frames of a file and prints this process's peak memory in kilobytes. */
async function main([path, frames, output]: string[]): Promise<void> {
  const source = { path, ...(await probe(path)) };
  const outFrame = Number(frames) - 1;
  await exportClip({ source, steps: EIGHT, delivery: { codec: 'h264', quality: 18 }, inFrame: 0, outFrame, output });
  rmSync(output);
  console.log(process.resourceUsage().maxRSS);
}

main(process.argv.slice(2)).catch((error: Error) => {
  console.error(error);
  process.exitCode = 1;
});
