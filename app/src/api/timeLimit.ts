/** A signal that aborts after so many milliseconds, as `AbortSignal.timeout`, which older browsers lack. */
export function timeLimit(ms: number): AbortSignal {
  const controller = new AbortController();
  setTimeout(() => controller.abort(new DOMException('Took too long.', 'TimeoutError')), ms);
  return controller.signal;
}
