import { act } from 'react';
import { createRoot } from 'react-dom/client';
import { View } from 'react-native';
import { useTapGuard } from './useTapGuard';

function List({ layout }: { layout: string }) {
  return <View ref={useTapGuard(layout)} testID="list" />;
}

test('taps do not count for a moment after a list has moved, unless it moves again and again', () => {
  Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });
  jest.useFakeTimers();
  const host = document.body.appendChild(document.createElement('div'));
  const root = createRoot(host);
  const show = (layout: string): void => act(() => root.render(<List layout={layout} />));
  const takesTaps = (): boolean =>
    host.querySelector<HTMLElement>('[data-testid=list]')!.style.pointerEvents !== 'none';
  show('a,b');
  expect(takesTaps()).toBe(true);
  show('b,a');
  expect(takesTaps()).toBe(false);
  // Drawn again without a move.
  show('b,a');
  jest.advanceTimersByTime(300);
  expect(takesTaps()).toBe(false);
  jest.advanceTimersByTime(200);
  expect(takesTaps()).toBe(true);
  show('a,b');
  expect(takesTaps()).toBe(true);
  jest.advanceTimersByTime(2000);
  show('b,a');
  expect(takesTaps()).toBe(false);
  act(() => root.unmount());
  jest.useRealTimers();
});
