import type { Area } from '@inkavo/core/scopes/sampleArea';
import { useBench } from '../state/bench';
import type { Stamped } from './worker/frame';
import { coalesce } from './coalesce';
import { engine, toMeasure } from './workers';

/** Reads continuously measured places while steps change: the last touched spot, and the pins. */
export class Spots {
  constructor(private readonly shown: () => Stamped) {}

  read(area: Area): void {
    useBench.getState().set({ spot: { area, reading: null } });
    this.readAgain();
  }

  readonly readAgain = coalesce(async () => {
    const { spot: asked, pins: pinned } = useBench.getState();
    const areas = [...(asked ? [asked.area] : []), ...pinned.map((p) => p.area)];
    if (areas.length === 0) return;
    const readings = await engine().scopes.readColours(toMeasure(this.shown()), areas);
    const of = (area: Area) => readings[areas.indexOf(area)] ?? null;
    const { spot, pins, set } = useBench.getState();
    set({
      ...(spot && areas.includes(spot.area) ? { spot: { ...spot, reading: of(spot.area) } } : {}),
      pins: pins.map((p) => (areas.includes(p.area) ? { ...p, reading: of(p.area) } : p)),
    });
  });
}
