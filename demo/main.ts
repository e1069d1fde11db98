import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { FIRST_CLIPS, type DemoClip } from './catalogue';
import { CARD, freshFolder } from './folder';
import { renderScene } from './render';
import { sceneOf } from './scenes';

/** Renders missing clips, two at a time, each in a separate process. */
async function ensure(clips: readonly DemoClip[]): Promise<void> {
  freshFolder();
  const waiting = clips.filter(({ folder, file }) => !existsSync(join(CARD, folder, file)));
  if (waiting.length === 0) return console.log('The demo footage is there.');
  console.log('Rendering the demo footage, once (two to three minutes) …');
  const work = async (): Promise<void> => {
    for (let clip = waiting.shift(); clip; clip = waiting.shift()) {
      const { file } = clip;
      const started = Date.now();
      await new Promise<void>((resolve, reject) => {
        const child = spawn(process.execPath, [...process.execArgv, process.argv[1], file], {
          stdio: ['ignore', 'ignore', 'inherit'],
        });
        child.on('close', (code) => (code === 0 ? resolve() : reject(new Error(`Rendering ${file} failed.`))));
      });
      console.log(`  ${file}: ${((Date.now() - started) / 1000).toFixed(0)} s`);
    }
  };
  await Promise.all([work(), work()]);
}

/**
 * `main` renders the first clip of each camera; `main --fresh` only removes outdated ones; `main FILE [FOLDER]` renders
 * one clip and prints its progress, 0–1, line by line; the folder contains those of the cameras.
 */
async function run(argument: string | undefined, folder = CARD): Promise<void> {
  if (argument === undefined) return ensure(FIRST_CLIPS);
  if (argument === '--fresh') return freshFolder();
  await renderScene(sceneOf(argument), folder, (share) => console.log(share.toFixed(3)));
}

run(process.argv[2], process.argv[3]).catch((error: Error) => {
  console.error(error.message);
  process.exitCode = 1;
});
