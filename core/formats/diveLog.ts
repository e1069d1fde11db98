import type { DiveLog } from '../model/diveLog';
import { FormatError } from './error';
import { parseXml, type Element } from './xml';

/** Maximum file length in characters. */
const MAX_LENGTH = 20_000_000;
const MAX_SAMPLES = 20_000;
const FOOT = 0.3048;
const KELVIN = 273.15;
/** Maximum plausible depth. */
const DEEPEST = 400;

export type LengthUnit = 'metre' | 'foot';

/**
 * Reads the dives of a log, in file order: UDDF 3.2 (always metres, seconds, kelvin) or CSV with a header line that
 * names time and depth, and for several dives their number. `unit` applies to a CSV whose header names no unit. Throws
 * a {@link FormatError} that names the line or element; never returns a partial log.
 */
export function readDives(text: string, name: string, { unit = 'metre' as LengthUnit } = {}): DiveLog[] {
  if (text.length > MAX_LENGTH) throw new FormatError(`This file is larger than ${MAX_LENGTH / 1e6} MB.`);
  const logs = /^\uFEFF?\s*</.test(text) ? readUddf(text, name) : readCsv(text, name, unit);
  const dived = logs.filter((log) => log.samples.length > 0);
  if (dived.length === 0) throw new FormatError('There is no sample of a depth in this file.');
  const long = dived.find((log) => log.samples.length > MAX_SAMPLES);
  if (long) throw new FormatError(`This dive has more than ${MAX_SAMPLES} samples (${long.samples.length}).`);
  return dived;
}

const find = (e: Element, name: string): Element | undefined => e.children.find((c) => c.name === name);
const all = (e: Element, name: string): Element[] => e.children.flatMap((c) => (c.name === name ? [c] : all(c, name)));

function numberOf(e: Element): number {
  const text = e.text.trim();
  const value = /^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/.test(text) ? Number(text) : NaN;
  if (!Number.isFinite(value))
    throw new FormatError(`${e.name} (line ${e.line}): "${text.slice(0, 24)}" is not a number.`);
  return value;
}

function readUddf(text: string, name: string): DiveLog[] {
  const root = parseXml(text);
  if (root.name !== 'uddf')
    throw new FormatError(`This is not a UDDF file: it begins with "${root.name.slice(0, 24)}".`);
  const dives = all(root, 'dive').filter((d) => all(d, 'waypoint').length > 0);
  if (dives.length === 0) throw new FormatError('There is no dive with samples in this file.');
  return dives.map((dive) => uddfDive(dive, name));
}

function uddfDive(chosen: Element, name: string): DiveLog {
  const [startedAt] = all(chosen, 'datetime');
  const samples: DiveLog['samples'] = [];
  for (const waypoint of all(chosen, 'waypoint')) {
    const [time, depth, temperature] = ['divetime', 'depth', 'temperature'].map((n) => find(waypoint, n));
    if (!time) throw new FormatError(`waypoint (line ${waypoint.line}): there is no divetime.`);
    // A waypoint may hold only an event.
    if (!depth) continue;
    add(samples, `waypoint (line ${waypoint.line})`, {
      seconds: numberOf(time),
      metres: numberOf(depth),
      ...(temperature ? { celsius: numberOf(temperature) - KELVIN } : {}),
    });
  }
  return { name, startedAt: startedAt?.text.trim().slice(0, 40) || null, samples };
}

function add(samples: DiveLog['samples'], where: string, sample: DiveLog['samples'][number]): void {
  const last = samples.at(-1);
  if (sample.seconds < 0) throw new FormatError(`${where}: the time is negative.`);
  if (last && sample.seconds < last.seconds) throw new FormatError(`${where}: the time goes back.`);
  if (sample.metres < -1 || sample.metres > DEEPEST)
    throw new FormatError(`${where}: a depth of ${sample.metres} m cannot be.`);
  if (sample.celsius !== undefined && (sample.celsius < -10 || sample.celsius > 60)) delete sample.celsius;
  // Of two samples in the same second the later counts. Gauges may read slightly negative depths at the surface.
  if (last?.seconds === sample.seconds) samples.pop();
  samples.push({ ...sample, metres: Math.max(0, sample.metres) });
}

/** Header words that identify a column. */
const TIME = /time|zeit|sec|min|temps|tiempo/i;
const DEPTH = /depth|tiefe|prof/i;
const TEMPERATURE = /temp(?!s)/i;
/** Of several time columns, the one for samples; another may hold the time of day at which a dive began. */
const SAMPLED = /sample|elapsed|dive ?time|run ?time|sec|min|\(s\)/i;
const DIVE = /^#$|^dive$|\b(dive|tauchgang)\b.*(number|no|nr|#|id)\b/i;
const DAY = /^(date|datum|day|fecha)$/i;

function cells(line: string, separator: string): string[] {
  return (line.match(new RegExp(`("([^"]|"")*"|[^${separator}]*)(${separator}|$)`, 'g')) ?? []).map((c) =>
    c
      .replace(new RegExp(`${separator}$`), '')
      .trim()
      .replace(/^"|"$/g, '')
      .trim(),
  );
}

/** Seconds from "75", "1:15" or "0:01:15"; `inMinutes` for plain numbers in minutes. */
function secondsOf(text: string, inMinutes: boolean): number {
  if (/^\d+(:\d{1,2}){1,2}(\.\d+)?$/.test(text))
    return text.split(':').reduce((sum, part) => 60 * sum + Number(part), 0);
  return /^[+-]?\d+(\.\d+)?$/.test(text) ? Number(text) * (inMinutes ? 60 : 1) : NaN;
}

function readCsv(text: string, name: string, unit: LengthUnit): DiveLog[] {
  const lines = text.replace(/^\uFEFF/, '').split(/\r\n|\r|\n/);
  const headAt = lines.findIndex((l) => TIME.test(l) && DEPTH.test(l));
  if (headAt < 0 || headAt > 50)
    throw new FormatError('This is not a dive log: no line names a time and a depth (such as "time (s),depth (m)").');
  const separator = [';', '\t', ','].find((s) => lines[headAt].includes(s));
  if (!separator) throw new FormatError(`Line ${headAt + 1}: columns are parted by a comma, a semicolon or a tab.`);
  const head = cells(lines[headAt], separator);
  const temperatureAt = head.findIndex((h) => TEMPERATURE.test(h));
  const depthAt = head.findIndex((h) => DEPTH.test(h));
  const times = head.flatMap((h, i) => (TIME.test(h) && i !== temperatureAt && i !== depthAt ? [i] : []));
  if (times.length === 0) throw new FormatError(`Line ${headAt + 1}: no column names a time.`);
  const timeAt = times.find((i) => times.length > 1 && SAMPLED.test(head[i])) ?? times[0];
  const diveAt = head.findIndex((h, i) => DIVE.test(h) && i !== timeAt && i !== depthAt);
  const [dayAt, clockAt] = [head.findIndex((h) => DAY.test(h)), times.find((i) => i !== timeAt)];
  const said = head[depthAt].toLowerCase();
  const feet = /\b(ft|feet|foot)\b/.test(said) || (unit === 'foot' && !/\b(m|met(er|re)s?)\b/.test(said));
  const fahrenheit = temperatureAt >= 0 && /\bf\b|fahrenheit|°f/i.test(head[temperatureAt]);
  const inMinutes = /min/i.test(head[timeAt]) && !/sec|\bs\b/i.test(head[timeAt]);
  const logs: DiveLog[] = [];
  let dive: string | undefined;
  const decimal = (text: string): string => (separator === ',' ? text : text.replace(',', '.'));
  for (let i = headAt + 1; i < lines.length; i += 1) {
    if (lines[i].trim() === '') continue;
    const where = `Line ${i + 1}`;
    const row = cells(lines[i], separator);
    const [time, depth] = [row[timeAt] ?? '', decimal(row[depthAt] ?? '')];
    const seconds = secondsOf(decimal(time), inMinutes);
    if (Number.isNaN(seconds)) throw new FormatError(`${where}: "${time.slice(0, 24)}" is not a time.`);
    if (!/^[+-]?(\d+\.?\d*|\.\d+)$/.test(depth))
      throw new FormatError(`${where}: "${depth.slice(0, 24)}" is not a depth.`);
    const warm = temperatureAt >= 0 ? Number.parseFloat(decimal(row[temperatureAt] ?? '')) : NaN;
    if (logs.length === 0 || (diveAt >= 0 && row[diveAt] !== dive)) {
      dive = row[diveAt];
      logs.push({
        name,
        startedAt: startOf(row[dayAt], clockAt === undefined ? undefined : row[clockAt]),
        samples: [],
      });
    }
    add(logs[logs.length - 1].samples, where, {
      seconds,
      metres: Number(depth) * (feet ? FOOT : 1),
      ...(Number.isFinite(warm) ? { celsius: fahrenheit ? ((warm - 32) * 5) / 9 : warm } : {}),
    });
  }
  return logs;
}

/** When a dive began, from separate date and time columns; null where they cannot be read. */
function startOf(day: string | undefined, clock: string | undefined): string | null {
  if (!day || !/^\d{4}-\d{2}-\d{2}$/.test(day)) return null;
  return clock && /^\d{1,2}:\d{2}(:\d{2})?$/.test(clock)
    ? `${day}T${clock.padStart(clock.length < 6 ? 5 : 8, '0')}`
    : day;
}
