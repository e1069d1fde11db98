import { writeFileSync } from 'node:fs';
import { execFileSync } from 'node:child_process';
import { pictureToRgb, bakeFor } from '@inkavo/core/program/cpu/gradePicture';
import { compile } from '@inkavo/core/program/compile';
import { firstPass } from '@inkavo/core/reading/firstPass';
import { asSteps } from '@inkavo/core/reading/stepsOf';
import { encodedCase, reading } from './measure';
import { fetchPhotographs } from './photographs';
import { requests } from './main';
import { KNOWN_HEIGHT as H, KNOWN_WIDTH as W } from './surfaces';
const [n, part, seed, out, only] = process.argv.slice(2);
fetchPhotographs([part as any]);
const A: any = { water: 'water', haze: 'haze', mixed: 'haze', flat: 'air', white: 'air', good: 'air', tinted: 'air' };
let k = 0;
for (const r of requests(Number(n), part as any, Number(seed))) {
  if (only && !only.split(',').includes(r.kind)) continue;
  const c = encodedCase({ ...r, slate: false });
  const frames = reading(c.frames);
  const raw = pictureToRgb(undefined, c.frames[0]);
  const imgs: Float32Array[] = [raw];
  const words: string[] = [c.name];
  for (const setting of [undefined, A[c.kind]]) {
    const p = firstPass(frames, [], { depth: c.frames[0].format.depth, transfer: null, setting }, { others: false });
    const steps = asSteps(p.explanations[0].proposals);
    imgs.push(pictureToRgb(bakeFor(compile(steps, 0), c.frames[0], 33), c.frames[0]));
    words.push(p.explanations[0].found + ' [' + steps.map((s) => s.kind + JSON.stringify(Object.fromEntries(Object.entries(s.params as any).filter(([, v]) => typeof v === 'number').map(([a, b]: any) => [a, Math.round(b * 100) / 100])))).join(' ') + ']');
  }
  imgs.push(c.truth());
  const buf = Buffer.alloc(imgs.length * W * H * 3);
  imgs.forEach((im, j) => { for (let y = 0; y < H; y++) for (let x = 0; x < W * 3; x++) buf[(y * imgs.length + j) * W * 3 + x] = Math.max(0, Math.min(255, Math.round(255 * im[y * W * 3 + x]))); });
  writeFileSync(`/tmp/row.rgb`, buf);
  execFileSync('ffmpeg', ['-v','error','-y','-f','rawvideo','-pix_fmt','rgb24','-s',`${imgs.length*W}x${H}`,'-i','/tmp/row.rgb','-vf',`scale=${imgs.length*200}:-1`,`${out}-${String(k).padStart(2,'0')}.png`]);
  console.log(k++, c.kind, words.join(' | '));
}
