import { create } from 'zustand';
import { poseAt, type Pose, type Shape } from '@inkavo/core/regions/shape';
import type { View } from '../../../engine/picture/look';
import { useBench } from '../../../state/bench';
import { regionOf, useRegionTool } from '../../../state/regions';
import type { DragPoint } from '../../../ui/useDrag';
import { fromPixels, handsOf, holds, moved, nearestHand, withPoint, type HandName, type Place } from './hands';
import { playheadSeconds, poseInHand, regionStep, setPose } from './inHand';

/** The handle being dragged. */
export const useHandInUse = create<{ hand: HandName | null }>(() => ({ hand: null }));

interface Drag {
  shape: Shape;
  from: Pose;
  hand: HandName;
  place: Place;
}
let drag: Drag | undefined;

/** Hit radius of outlines and points for a tap. */
const NEAR = 22;

const placeOf = (p: DragPoint, view: View, aspect: number): Place => ({
  view,
  aspect,
  width: p.width,
  height: p.height,
});

/** Whether a drag over the picture moves a shape, and nothing else. */
export const placesShapes = (): boolean => {
  const { placing } = useRegionTool.getState();
  return placing && useBench.getState().picking === null && poseInHand() !== undefined;
};

/** Pointer down, anywhere: grabs the nearest handle. */
export function beginShapeDrag(p: DragPoint, view: View, aspect: number): void {
  const found = poseInHand();
  if (!found) return;
  const place = placeOf(p, view, aspect);
  const { name } = nearestHand(handsOf(found.shape.kind, found.pose, place), p.x, p.y);
  drag = { shape: found.shape, from: found.pose, hand: name, place };
}

export function moveShapeDrag(p: DragPoint): void {
  if (!drag) return;
  const { shape, from, hand, place } = drag;
  const scale = place.width / place.view.width;
  useHandInUse.setState({ hand });
  if (hand.startsWith('point')) useRegionTool.setState({ point: Number(hand.slice(6)) });
  setPose(shape.id, moved(shape.kind, from, hand, p.dx / scale, p.dy / scale), true);
}

/** Pointer up; without movement it was a selection. */
export function endShapeDrag(p: DragPoint, wasMoved: boolean): void {
  const last = drag;
  drag = undefined;
  useHandInUse.setState({ hand: null });
  if (wasMoved) return useBench.getState().settle();
  if (last) tapped(last, p);
}

export function cancelShapeDrag(): void {
  drag = undefined;
  useHandInUse.setState({ hand: null });
  useBench.getState().settle();
}

/** A tap: selects a point of the path in hand, adds one on its outline, or selects another shape. */
function tapped({ shape, from, place }: Drag, p: DragPoint): void {
  const [x, y] = fromPixels(place, p.x, p.y);
  if (shape.kind === 'path') {
    const points = (from.points ?? []).map((_, i) =>
      handsOf('path', from, place).find((h) => h.name === `point ${i}`)!,
    );
    const at = points.findIndex((h) => Math.hypot(h.x - p.x, h.y - p.y) < NEAR);
    if (at >= 0) return useRegionTool.setState({ point: at });
    if (nearOutline(from, place, p) && points.length < 64) return setPose(shape.id, withPoint(from, x, y));
  }
  const step = regionStep(useBench.getState());
  const others = step ? regionOf(step).shapes.filter((s) => s.id !== shape.id) : [];
  const hit = others.findLast((s) => holds(s.kind, poseAt(s, playheadSeconds()), x, y));
  if (hit) useRegionTool.setState({ shape: hit.id, point: null });
}

function nearOutline(pose: Pose, place: Place, p: DragPoint): boolean {
  const inner = moved('path', pose, 'size', -NEAR / (place.width / place.view.width), 0);
  const outer = moved('path', pose, 'size', NEAR / (place.width / place.view.width), 0);
  const [x, y] = fromPixels(place, p.x, p.y);
  return holds('path', outer, x, y) && !holds('path', inner, x, y);
}
