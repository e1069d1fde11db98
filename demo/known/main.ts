import type { ClipClass } from '@inkavo/core/reading/estimate';
import { CASE_KINDS, type CaseKind, type CaseRequest } from './cases';
import { measureCase, type Measured } from './measure';
import { isProgram, ownProcess } from './ownProcess';
import { fetchPhotographs, type Part } from './photographs';
import type { Score } from './score';

/**
 * Measures the first pass on known cases: `npm run known -- [cases] [part] [first seed]`. Prints results per kind, with
 * untouched pictures and plain methods for comparison.
 */

const mean = (values: readonly number[]): number => values.reduce((a, b) => a + b, 0) / Math.max(1, values.length);

/** Sequence of kinds. */
const ORDER: readonly CaseKind[] = [
  'water',
  'haze',
  'white',
  'good',
  'water',
  'flat',
  'mixed',
  'good',
  'water',
  'haze',
  'white',
  'flat',
];
/** Additional kinds, one of each after each round of the others. */
const BESIDES: readonly CaseKind[] = ['mixed', 'tinted'];

/** Acceptable first explanations for each kind: either of the two faults of a flat recording. */
const AS: Record<CaseKind, readonly ClipClass[]> = {
  water: ['water'],
  haze: ['haze'],
  flat: ['flat'],
  white: ['white'],
  good: ['good'],
  mixed: ['flat', 'haze'],
  tinted: ['flat', 'white'],
};

/**
 * Requests for this many cases of a part, half of those of water and white with a slate; and a sixth as many flat
 * recordings with a hidden fault.
 */
export const requests = (count: number, part: Part, from: number): CaseRequest[] => {
  const usual = Array.from({ length: count }, (_, i) => {
    const kind = ORDER[i % ORDER.length];
    return { seed: from + i, kind, part, slate: (kind === 'water' || kind === 'white') && i % 2 === 0 };
  });
  const rounds = Array.from({ length: Math.floor(count / ORDER.length) }, (_, i) => from + i);
  return [...usual, ...rounds.flatMap((seed) => BESIDES.map((kind) => ({ seed, kind, part })))];
};

/** Measures in two separate processes: a test's sandbox makes such computations many times slower. */
export async function measureAll(list: readonly CaseRequest[]): Promise<Measured[]> {
  fetchPhotographs([...new Set(list.map((r) => r.part))]);
  const part = async (some: readonly CaseRequest[]): Promise<Measured[]> =>
    JSON.parse(await ownProcess(__filename, ['--requests', JSON.stringify(some)])) as Measured[];
  const halves = [0, 1].map((k) => list.filter((_, i) => i % 2 === k));
  const [a, b] = await Promise.all(halves.map(part));
  return list.map((_, i) => (i % 2 === 0 ? a : b)[Math.floor(i / 2)]);
}

/** Lines that summarise the results. */
export function report(all: readonly Measured[]): string[] {
  const lines: string[] = [];
  for (const kind of CASE_KINDS) {
    const some = all.filter((m) => m.kind === kind);
    if (some.length === 0) continue;
    const of = (pick: (m: Measured) => Score | null): Score[] => some.map(pick).filter((s) => s !== null);
    const untouched = mean(of((m) => m.untouched).map((s) => s.difference));
    const figure = (name: string, pick: (m: Measured) => Score | null): string => {
      const chosen = some.filter((m) => pick(m));
      if (chosen.length === 0) return '';
      const base = mean(chosen.map((m) => m.untouched.difference));
      const own = mean(chosen.map((m) => pick(m)!.difference));
      const worse = chosen.filter((m) => pick(m)!.difference > m.untouched.difference + 0.5);
      const harm = Math.max(0, ...chosen.map((m) => pick(m)!.difference - m.untouched.difference));
      const chroma =
        mean(chosen.map((m) => pick(m)!.chroma * m.untouched.trueChroma)) /
        mean(chosen.map((m) => m.untouched.trueChroma));
      return `${name} ${own.toFixed(2)} (${(own / base).toFixed(2)}; chroma ${chroma.toFixed(2)}; worse ${worse.length}, by ${harm.toFixed(1)})`;
    };
    const plain = Object.keys(some[0].plain).map((n) => [n, mean(some.map((m) => m.plain[n].difference))] as const);
    const [name, best] = plain.reduce((a, b) => (b[1] < a[1] ? b : a));
    const right = (pick: (m: Measured) => string): string => {
      const count = some.filter((m) => AS[kind].includes(pick(m) as ClipClass)).length;
      return `${((100 * count) / some.length).toFixed(0)} %`;
    };
    const slates = some.filter((m) => m.slate);
    lines.push(
      `${kind}: ${some.length} cases, untouched ${untouched.toFixed(2)}, best plain method ${best.toFixed(2)} (${name})`,
      `  ${[figure('alone', (m) => m.alone), figure('asked', (m) => m.asked), figure('picked', (m) => m.picked)].filter(Boolean).join(', ')}`,
      `  known for what it is ${right((m) => m.found)}, asked ${right((m) => m.foundAsked)}; clipped at most ${(100 * Math.max(...some.map((m) => m.clipped))).toFixed(2)} %; red noise at most ${Math.max(...some.map((m) => m.redNoise)).toFixed(2)}, mean ${mean(some.map((m) => m.redNoise)).toFixed(2)}; seam at most ${Math.max(...some.map((m) => m.seam)).toFixed(2)}` +
        (slates.length
          ? `; slate at most ${Math.max(...slates.flatMap((m) => m.slate!.map(Math.abs))).toFixed(2)} off`
          : ''),
    );
    if (kind === 'good')
      lines.push(
        `  left alone ${((100 * some.filter((m) => m.steps.length === 0).length) / some.length).toFixed(0)} %`,
      );
  }
  return lines;
}

async function main([first, second, third, fourth]: string[]): Promise<void> {
  if (first === '--requests') {
    console.log(JSON.stringify((JSON.parse(second) as CaseRequest[]).map(measureCase)));
    return;
  }
  const all = await measureAll(requests(Number(first ?? 420), (second ?? 'aside') as Part, Number(third ?? 10_000)));
  console.log(report(all).join('\n'));
  if (fourth === 'worst')
    for (const m of all
      .toSorted((a, b) => b.alone.difference - b.untouched.difference - (a.alone.difference - a.untouched.difference))
      .slice(0, 25))
      console.log(
        `${m.seed} ${m.name}: ${m.untouched.difference.toFixed(1)} → ${m.alone.difference.toFixed(1)}, asked ${m.asked.difference.toFixed(1)}, ${m.found} ${m.steps.join('+')} seam ${m.seam.toFixed(2)} noise ${m.redNoise.toFixed(1)} clip ${(100 * m.clipped).toFixed(2)}`,
      );
}

if (isProgram('main')) void main(process.argv.slice(2));
