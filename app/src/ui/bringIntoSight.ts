/** Margin in pixels kept visible beside an element. */
const BESIDE = 60;

/**
 * Scrolls an element fully into view. Unlike the browser's own `scrollIntoView`, it does not move the sequential focus
 * starting point.
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
