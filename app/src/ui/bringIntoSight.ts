/** Keeps so much of what lies beside an element in sight, in pixels. */
const BESIDE = 60;

/**
 * Scrolls what an element lies in until it is seen whole. Not by the browser's own `scrollIntoView`, which also moves
 * the place that Tab goes on from.
 */
export function bringIntoSight(element: HTMLElement): void {
  for (let box = element.parentElement; box; box = box.parentElement) {
    const across = box.scrollWidth > box.clientWidth + 1;
    const down = box.scrollHeight > box.clientHeight + 1;
    const scrolls = /auto|scroll/.test(getComputedStyle(box).overflow);
    if (!scrolls || (!across && !down)) continue;
    const [own, around] = [element.getBoundingClientRect(), box.getBoundingClientRect()];
    const by = (low: number, high: number, from: number, to: number): number =>
      low < from ? low - from - BESIDE : high > to ? high - to + BESIDE : 0;
    if (across) box.scrollLeft += by(own.left, own.right, around.left, around.right);
    if (down) box.scrollTop += by(own.top, own.bottom, around.top, around.bottom);
    return;
  }
}
