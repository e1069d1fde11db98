import { bank } from './bank';
import { copter } from './copter';
import { dive, eelgrassDeep, eelgrassShallow } from './dive';
import { helmet, paddleBack, paddleOut } from './helmet';
import { jetty } from './jetty';
import type { Scene } from './types';

/** All clips of the made-up outing; the first of a camera has a board or slate whose colours are known. */
export const SCENES: readonly Scene[] = [
  bank,
  copter,
  helmet,
  dive,
  jetty,
  paddleOut,
  paddleBack,
  eelgrassShallow,
  eelgrassDeep,
];

/** Throws an Error for a file that none of them is. */
export function sceneOf(file: string): Scene {
  const scene = SCENES.find((s) => s.file === file);
  if (!scene) throw new Error(`There is no scene for ${file}.`);
  return scene;
}
export type { Scene } from './types';
