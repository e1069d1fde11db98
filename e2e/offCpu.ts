import type { Page } from 'playwright-core';
import { secondsOf } from '@inkavo/core/model/facts';
import type { Step } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import { compile } from '@inkavo/core/program/compile';
import { bakeOps } from '@inkavo/core/program/baked';
import { pictureToRgb, planesFor } from '@inkavo/core/program/cpu/gradePicture';
import { decodeFrame, restFrame } from '@inkavo/media/frames/rest';
import { keptSteps, screenPicture, type TestApp } from './testApp';

/** A frame of a clip graded by the CPU backend: encoded R'G'B', not clipped. */
export async function cpuFrame(
  { running: { parts } }: TestApp,
  clip: Clip,
  width: number,
  steps: readonly Step[],
  frame = clip.referenceFrame,
): Promise<{ width: number; height: number; rgb: Float32Array }> {
  const source = await parts.clips.source(clip, parts.library.original(clip.hash));
  const rest = await restFrame(source, frame, width);
  const program = compile(steps, secondsOf(clip.facts, frame));
  // Planes are made from the file's own pixels, at any size.
  const planes = program.planes.length ? planesFor(program, await decodeFrame(source, frame)) : [];
  const rgb = pictureToRgb({ ops: bakeOps(program, 65), planes }, rest);
  return { width: rest.format.width, height: rest.format.height, rgb };
}

/**
 * Share of the 8-bit values on the screen that differ by more than `by` from the CPU backend's frame, with the server's
 * steps.
 */
export async function shareOffCpu(app: TestApp, page: Page, clip: Clip, by: number, frame?: number): Promise<number> {
  const { width, height, rgb } = await screenPicture(page);
  const cpu = await cpuFrame(app, clip, width, await keptSteps(app.client, clip.id), frame);
  expect([width, height]).toEqual([cpu.width, cpu.height]);
  let beyond = 0;
  for (let i = 0; i < rgb.length; i += 1)
    if (Math.abs(Math.round(255 * Math.min(1, Math.max(0, cpu.rgb[i]))) - rgb[i]) > by) beyond += 1;
  return beyond / rgb.length;
}
