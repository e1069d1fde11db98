import { bank } from './bank';
import { copter } from './copter';
import { dive, eelgrassDeep, eelgrassShallow } from './dive';
import { helmet, paddleBack, paddleOut } from './helmet';
import { jetty } from './jetty';
import type { Scene } from './types';

/** All clips of the made-up outing; the first of each camera shows a board or slate with known colours. */
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

/** Throws an Error for an unknown file. */
export function sceneOf(file: string): Scene {
  const scene = SCENES.find((s) => s.file === file);
  if (!scene) throw new Error(`There is no scene for ${file}.`);
  return scene;
}
export type { Scene } from './types';
