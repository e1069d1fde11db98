import { act } from 'react';
import { createRoot } from 'react-dom/client';
import { newStep } from '@inkavo/core/model/grade';
import type { ClipOpened } from '../../api/client';
import { useBench } from '../../state/bench';
import { useSummary } from './useSummary';

const keys = [0, 10].map((seconds) => ({ seconds, value: seconds, ease: 'linear' }));
const water = newStep('water', 'w', { type: 'C1', distanceFrom: 'value', depth: { keys } });

function Summary() {
  return <>{useSummary(water)}</>;
}

test('a step with keyframes is summarised at the frame shown', () => {
  Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });
  const opened = { clip: { facts: { frameRate: { num: 30, den: 1 } } } } as unknown as ClipOpened;
  useBench.getState().set({ opened, frame: 120 });
  const place = document.createElement('div');
  const root = createRoot(place);
  act(() => root.render(<Summary />));
  expect(place.textContent).toMatch(/^4\.0\sm/);
  act(() => useBench.getState().set({ frame: 240 }));
  expect(place.textContent).toMatch(/^8\.0\sm/);
  act(() => root.unmount());
});
