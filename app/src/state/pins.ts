import type { Area } from '@inkavo/core/scopes/sampleArea';
import { useBench, type Pin } from './bench';

const keyOf = (clipId: string): string => `inkavo-pins-${clipId}`;
/** Maximum number of pins: more would hide the picture. */
export const MAX_PINS = 8;

/** Pins of a clip, stored on this device. */
export function loadPins(clipId: string): Pin[] {
  try {
    const areas = JSON.parse(localStorage.getItem(keyOf(clipId)) ?? '[]') as Area[];
    return areas.slice(0, MAX_PINS).map((area, i) => ({ id: `${i}`, area, reading: null }));
  } catch {
    return [];
  }
}

function keep(pins: Pin[]): void {
  const { opened, set } = useBench.getState();
  if (opened) localStorage.setItem(keyOf(opened.clip.id), JSON.stringify(pins.map((p) => p.area)));
  set({ pins });
}

/** Adds a pin on an area, removing the oldest if there are too many. */
export function addPin(area: Area): void {
  const { pins, spot, set } = useBench.getState();
  const pin: Pin = { id: `${Date.now()}`, area, reading: spot?.area === area ? spot.reading : null };
  keep([...pins, pin].slice(-MAX_PINS));
  set({ spot: null });
}

export const removePin = (id: string): void => keep(useBench.getState().pins.filter((p) => p.id !== id));
