import { act } from 'react';
import { createRoot } from 'react-dom/client';
import { PATIENCE_MS } from '../api/request';
import { Thumb } from './Thumb';

test('a picture that does not arrive is requested again, ever more patiently; one that has arrived stays', () => {
  Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });
  jest.useFakeTimers();
  const host = document.body.appendChild(document.createElement('div'));
  const root = createRoot(host);
  act(() => root.render(<Thumb src="/a.jpg" />));
  const picture = (): HTMLImageElement => host.querySelector('img')!;
  const after = (ms: number): HTMLImageElement => {
    act(() => jest.advanceTimersByTime(ms));
    return picture();
  };
  const first = picture();
  expect(after(PATIENCE_MS[0] - 1)).toBe(first);
  const second = after(1);
  expect(second).not.toBe(first);
  expect([first.getAttribute('src'), second.getAttribute('src')]).toEqual([null, '/a.jpg']);
  expect(after(PATIENCE_MS[1] - 1)).toBe(second);
  act(() => void second.dispatchEvent(new Event('load')));
  expect(after(PATIENCE_MS[2] + PATIENCE_MS[1])).toBe(second);
  // Another picture has its own time.
  act(() => root.render(<Thumb src="/b.jpg" />));
  const other = picture();
  expect(after(PATIENCE_MS[0] - 1)).toBe(other);
  expect(after(1)).not.toBe(other);
  act(() => root.unmount());
  jest.useRealTimers();
});
