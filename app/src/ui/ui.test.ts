import type { KeyboardEvent } from 'react';
import { chooseByKey, rove } from './roving';
import { follow } from './trail';
import { unbroken } from './unbroken';

describe('the trail of screens', () => {
  const start = { paths: ['/', '/outing/a'], at: 1 };

  test('going on adds a screen, and drops those that Back had left', () => {
    expect(follow(start, '/clip/b', false, false)).toEqual({ paths: ['/', '/outing/a', '/clip/b'], at: 2 });
    expect(follow({ ...start, at: 0 }, '/exports', false, false)).toEqual({ paths: ['/', '/exports'], at: 1 });
  });

  test('Back and Forward move along it; an unknown place begins anew', () => {
    expect(follow(start, '/', true, false)).toEqual({ ...start, at: 0 });
    expect(follow({ ...start, at: 0 }, '/outing/a', true, false)).toEqual(start);
    expect(follow(start, '/exports', true, false)).toEqual({ paths: ['/exports'], at: 0 });
  });

  test('a screen that takes the place of another stands in its stead; the same screen again changes nothing', () => {
    expect(follow(start, '/exports', false, true)).toEqual({ paths: ['/', '/exports'], at: 1 });
    expect(follow(start, '/outing/a', false, false)).toEqual(start);
  });
});

describe('groups that are one stop of Tab', () => {
  test('arrows go round, Home and End to the ends, other keys nowhere', () => {
    expect([rove('ArrowRight', 2, 3), rove('ArrowDown', 0, 3), rove('ArrowLeft', 0, 3), rove('ArrowUp', 1, 3)]).toEqual(
      [0, 1, 2, 0],
    );
    expect([rove('Home', 2, 3), rove('End', 0, 3), rove('a', 1, 3), rove('Tab', 1, 3)]).toEqual([
      0,
      2,
      undefined,
      undefined,
    ]);
  });

  test('the choice that an arrow leads to is taken and gets the focus; Space takes the one that has it', () => {
    document.body.innerHTML =
      '<div role="radiogroup"><div role="radio" tabindex="0"></div><div role="radio" tabindex="-1"></div></div>';
    const radios = [...document.querySelectorAll<HTMLElement>('[role=radio]')];
    const taken: string[] = [];
    const press = (key: string, at: number): boolean => {
      let prevented = false;
      const event = { key, currentTarget: radios[at], preventDefault: () => (prevented = true) };
      chooseByKey(event as unknown as KeyboardEvent, ['a', 'b'], at, (v) => taken.push(v));
      return prevented;
    };
    expect(press('ArrowRight', 0)).toBe(true);
    expect(document.activeElement).toBe(radios[1]);
    expect(press(' ', 1)).toBe(true);
    expect(press('Tab', 1)).toBe(false);
    expect(taken).toEqual(['b', 'b']);
  });
});

test('no line of prose ends between a number and its unit', () => {
  expect(unbroken('5.3 % by the grade, 1.8 m away, 0.15 stops, 10 bits at 29.97 fps, 1.2 GB, 48 kHz, 6504 K.')).toBe(
    '5.3\u00a0% by the grade, 1.8\u00a0m away, 0.15\u00a0stops, 10\u00a0bits at 29.97\u00a0fps, 1.2\u00a0GB, 48\u00a0kHz, 6504\u00a0K.',
  );
  // Words that only begin like a unit, and numbers without a unit.
  const plain = 'Of 3 mends 2 steps are at 1 side, 255 254 253';
  expect(unbroken(plain)).toBe(plain);
});
