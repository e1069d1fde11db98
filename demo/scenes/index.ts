import { bank } from './bank';
import { copter } from './copter';
import { dive } from './dive';
import { helmet } from './helmet';
import type { Scene } from './types';

/** The clips of the made-up outing, the slowest to render first. */
export const SCENES: readonly Scene[] = [copter, dive, helmet, bank];
export type { Scene } from './types';
