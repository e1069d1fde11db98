/** A frame's time as minutes:seconds.frames, the frames counted at the clip's rate. */
export function timeText(frame: number, rate: number): string {
  const whole = Math.max(1, Math.round(rate));
  const seconds = Math.floor(Math.round(frame) / whole);
  const two = (n: number): string => String(n).padStart(2, '0');
  return `${Math.floor(seconds / 60)}:${two(seconds % 60)}.${two(Math.round(frame) % whole)}`;
}

/** Seconds as minutes:seconds. */
export function clockText(seconds: number): string {
  const whole = Math.round(Math.abs(seconds));
  return `${seconds < 0 ? '−' : ''}${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`;
}
