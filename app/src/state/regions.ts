import { create } from 'zustand';
import type { StepLists } from '@inkavo/core/model/lists';
import { newStep, type Step } from '@inkavo/core/model/grade';
import { REGION, regionSchema, type Region } from '@inkavo/core/regions/region';
import { poseSchema, type Pose, type Shape, type ShapeKind } from '@inkavo/core/regions/shape';
import { changeStep, findStep, freshId, insert, ownedRegions } from './stepLists';

/** Initial content of a new region. */
export type RegionStart = ShapeKind | 'colour' | 'lightness';

/** State of the region in which the step in hand acts. */
interface RegionTool {
  /** Its outline is shown and editable in the picture. */
  placing: boolean;
  /** The selected shape. */
  shape: string | null;
  /** The selected point of a path. */
  point: number | null;
  /** Unselected areas are hatched. */
  hatched: boolean;
  /** Scopes and readings are limited to its selection. */
  reading: boolean;
  /** Its visible page in the tray. */
  page: 'shape' | 'colour' | 'light' | 'time';
}

export const useRegionTool = create<RegionTool>(() => ({
  placing: false,
  shape: null,
  point: null,
  hatched: false,
  reading: false,
  page: 'shape',
}));

/** Ends editing: the step's own controls return. Readings stay limited. */
export const donePlacing = (): void => useRegionTool.setState({ placing: false, point: null, hatched: false });

/** Closes the region. */
export const leaveRegion = (): void =>
  useRegionTool.setState({ placing: false, shape: null, point: null, hatched: false, reading: false });

/** Shows the region of the step in hand in the picture. */
export function takeRegion(region: Region): void {
  const page = region.shapes.length > 0 ? 'shape' : region.matte?.lightness ? 'light' : 'colour';
  useRegionTool.setState({ placing: true, shape: region.shapes[0]?.id ?? null, point: null, page });
}

export const regionOf = (step: Step): Region => regionSchema.parse(step.params);

const NAMES: Record<RegionStart, string> = {
  ellipse: 'Ellipse',
  rectangle: 'Rectangle',
  path: 'Path',
  gradient: 'Gradient',
  colour: 'Colour',
  lightness: 'Lightness',
};

/** A new path: six points around its centre. */
const SIX = Array.from({ length: 6 }, (_, i) => ({
  x: 0.5 * Math.cos((i * Math.PI) / 3),
  y: 0.5 * Math.sin((i * Math.PI) / 3),
  sharp: false,
}));

/** A shape in the centre of the view; `aspect`: width over height of the frame. */
export function newShape(kind: ShapeKind, view: { x: number; y: number; width: number }, aspect: number): Shape {
  const size = 0.36 * view.width;
  const pose: Pose = poseSchema.parse({
    x: view.x + view.width / 2,
    y: (view.y + view.width / 2) / aspect,
    width: size,
    height: kind === 'gradient' ? size : size * 0.75,
    // Pointing down: the part above, such as the sky, is selected.
    turn: kind === 'gradient' ? 90 : 0,
    feather: (kind === 'gradient' ? 0.25 : 0.06) * view.width,
    ...(kind === 'path' ? { points: SIX } : {}),
  });
  return { id: freshId(kind), kind, mode: 'add', inverted: false, keys: [{ ...pose, seconds: 0, ease: 'smooth' }] };
}

function startOf(start: RegionStart, view: { x: number; y: number; width: number }, aspect: number): Region {
  if (start === 'colour') return regionSchema.parse({});
  if (start === 'lightness') return regionSchema.parse({ matte: { lightness: { low: 0.6, high: 1, soft: 0.15 } } });
  return regionSchema.parse({ shapes: [newShape(start, view, aspect)] });
}

/** Creates a region for a step. */
export function addRegion(
  lists: StepLists,
  stepId: string,
  start: RegionStart,
  view: { x: number; y: number; width: number },
  aspect: number,
): { lists: StepLists; id: string } {
  const found = findStep(lists, stepId);
  if (!found) return { lists, id: '' };
  const taken = new Set(ownedRegions(lists).map((r) => r.step.label));
  let label = NAMES[start];
  for (let n = 2; taken.has(label); n += 1) label = `${NAMES[start]} ${n}`;
  const region = startOf(start, view, aspect);
  const id = freshId(REGION);
  const step: Step = { ...newStep(REGION, id, region), label };
  return {
    lists: {
      ...lists,
      [found.owner]: insert(
        lists[found.owner].map((s) => (s.id === stepId ? { ...s, region: id } : s)),
        step,
      ),
    },
    id,
  };
}

/** Sets where a step acts: in a region of its own list, or everywhere. */
export const setRegion = (lists: StepLists, stepId: string, region: string | undefined): StepLists =>
  changeStep(lists, stepId, (s) => {
    const next: Step = { ...s, region };
    if (region === undefined) delete next.region;
    return next;
  });

/** Removes a region; its steps act everywhere again. */
export function removeRegion(lists: StepLists, id: string): StepLists {
  const found = findStep(lists, id);
  if (!found) return lists;
  const steps = lists[found.owner].filter((s) => s.id !== id);
  return steps
    .filter((s) => s.region === id)
    .reduce((now, s) => setRegion(now, s.id, undefined), { ...lists, [found.owner]: steps });
}
