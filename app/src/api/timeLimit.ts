/** A signal that aborts after this many milliseconds: `AbortSignal.timeout` for older browsers. */
export function timeLimit(ms: number): AbortSignal {
  const controller = new AbortController();
  setTimeout(() => controller.abort(new DOMException('Took too long.', 'TimeoutError')), ms);
  return controller.signal;
}
