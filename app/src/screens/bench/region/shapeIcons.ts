import type { ShapeKind } from '@inkavo/core/regions/shape';
import { Blend, Circle, Hexagon, Square, type LucideIcon } from '../../../ui/icons';

export const ShapeIcon: Record<ShapeKind, LucideIcon> = {
  ellipse: Circle,
  rectangle: Square,
  path: Hexagon,
  gradient: Blend,
};
export const SHAPE_TITLES: Record<ShapeKind, string> = {
  ellipse: 'Ellipse',
  rectangle: 'Rectangle',
  path: 'Path',
  gradient: 'Gradient',
};
