/** A frame's time as minutes:seconds.frames, with frames counted at the clip's rate. */
export function timeText(frame: number, rate: number): string {
  const whole = Math.max(1, Math.round(rate));
  const seconds = Math.floor(Math.round(frame) / whole);
  const two = (n: number): string => String(n).padStart(2, '0');
  return `${Math.floor(seconds / 60)}:${two(seconds % 60)}.${two(Math.round(frame) % whole)}`;
}

/**
 * Parses a time to a frame, in the format of {@link timeText}, also with hours, or as plain seconds; null if invalid.
 */
export function parseTime(text: string, rate: number): number | null {
  const parts = /^(?:(?:(\d+):)?(\d+):)?(\d+)(?:[.,](\d+))?$/.exec(text.trim());
  if (!parts) return null;
  const [hours, minutes, seconds, frames] = parts.slice(1).map((part = '0') => Number(part));
  const whole = Math.max(1, Math.round(rate));
  const fits = frames < whole && (parts[2] === undefined || seconds < 60) && (parts[1] === undefined || minutes < 60);
  return fits ? ((hours * 60 + minutes) * 60 + seconds) * whole + frames : null;
}

/** Seconds as minutes:seconds. */
export function clockText(seconds: number): string {
  const whole = Math.round(Math.abs(seconds));
  return `${seconds < 0 ? '−' : ''}${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`;
}
