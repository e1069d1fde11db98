import { downsample } from '@inkavo/core/fields/smallPicture';
import { pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { firstPass } from '@inkavo/core/reading/firstPass';
import { newStep } from '@inkavo/core/model/grade';
import { gridOf } from '@inkavo/core/reading/grid';
import { sightOf, type Sight } from '@inkavo/core/reading/recognise';
import { asSteps } from '@inkavo/core/reading/stepsOf';
import { CASE_KINDS, makeCase, type CaseKind } from './cases';
import { encodedCase, reading, STRIDE, through } from './measure';
import { isProgram, ownProcess } from './ownProcess';
import { fetchPhotographs, type Part } from './photographs';
import { score } from './score';

/**
 * Measures the benefit of a camera's other clips for a first pass: `npm run known:other-clips -- [cases of each kind]
 * [part] [first seed] [others] [alike | otherwise | white] [kinds] [converted]`. Prints the remaining difference from
 * the truth relative to untouched, alone and with the others, and how often a clip is recognised as flat or not.
 * `converted`: flat clips have been converted with their profile; those without one are omitted.
 */

const FLAT: readonly CaseKind[] = ['flat', 'mixed', 'tinted'];
/** Other clips of a camera that records flat, has a wrong white, or neither. */
const BESIDE: Record<'flat' | 'tinted' | 'white' | 'standard', readonly CaseKind[]> = {
  flat: ['flat', 'mixed', 'flat', 'flat', 'flat'],
  tinted: ['tinted', 'tinted', 'mixed', 'tinted', 'tinted'],
  white: ['white'],
  standard: ['good', 'haze', 'good', 'good', 'haze'],
};
/** Recording conditions of a clip that is not under water. */
const recordedAs = (kind: CaseKind): keyof typeof BESIDE =>
  kind === 'white' || kind === 'tinted' ? kind : FLAT.includes(kind) ? 'flat' : 'standard';
/** Recording conditions of differently recorded others. */
const OTHERWISE = { flat: 'standard', tinted: 'standard', white: 'standard', standard: 'flat' } as const;

/** One clip: its difference from the truth (mean CIEDE2000) and whether it is correctly recognised as flat or not. */
export interface WithOtherClips {
  kind: CaseKind;
  untouched: number;
  alone: number;
  beside: number;
  knownAlone: boolean;
  knownBeside: boolean;
}

interface Asked {
  kinds: readonly CaseKind[];
  part: Part;
  seeds: readonly number[];
  others: number;
  /** Recording of the others: like the clip, differently, or all with one wrong white. */
  recorded: 'alike' | 'otherwise' | 'white';
  /** With the profile that they were recorded with. */
  converted?: boolean;
}

const isFlat = (kind: CaseKind): boolean => FLAT.includes(kind);

function measure(kind: CaseKind, seed: number, { part, others, recorded, converted }: Asked): WithOtherClips[] {
  const made = encodedCase({ seed, kind, part, camera: seed });
  if (converted && !made.profile) return [];
  const given = converted ? [newStep('convert', 'given', { profile: made.profile })] : [];
  const { depth } = made.frames[0].format;
  const own = recordedAs(kind);
  const theirs = { alike: own, otherwise: OTHERWISE[own], white: 'white' as const }[recorded];
  const kinds = kind === 'water' ? [kind] : BESIDE[theirs];
  const otherClips = Array.from({ length: others }, (_, k): Sight => {
    const of = { kind: kinds[(k + seed) % kinds.length], seed: 7 * seed + 500_000 + 13 * k, camera: seed };
    const { frames } = makeCase({ ...of, part, pictures: 1, half: true });
    return sightOf([gridOf(downsample(frames[0]))], depth);
  });
  const raw = pictureToRgb(undefined, made.frames[0]);
  const frames = reading(made.frames);
  const known = { depth, transfer: null };
  const passed = (beside: readonly Sight[]): { off: number; right: boolean } => {
    const [{ found, proposals }] = firstPass(
      frames,
      given,
      { ...known, otherClips: beside },
      { others: false },
    ).explanations;
    const flat = converted || found === 'flat' || proposals.some((p) => p.step.kind === 'convert');
    const { difference } = score(through(made, [...given, ...asSteps(proposals)], raw), made.truth(), STRIDE);
    return { off: difference, right: flat === isFlat(kind) };
  };
  const [alone, beside] = [passed([]), passed(otherClips)];
  const untouched = score(through(made, given, raw), made.truth(), STRIDE).difference;
  const [knownAlone, knownBeside] = [alone.right, beside.right];
  return [{ kind, untouched, alone: alone.off, beside: beside.off, knownAlone, knownBeside }];
}

/** Measures cases of these kinds for each seed, in two separate processes. */
export async function measureOtherClips(asked: Asked): Promise<WithOtherClips[]> {
  fetchPhotographs([asked.part]);
  const halves = [0, 1].map((k) => ({ ...asked, seeds: asked.seeds.filter((_, i) => i % 2 === k) }));
  const some = await Promise.all(
    halves.map(
      async (half) => JSON.parse(await ownProcess(__filename, ['--asked', JSON.stringify(half)])) as WithOtherClips[],
    ),
  );
  return some.flat();
}

async function main([first, second, third, fourth, fifth, sixth, seventh]: string[]): Promise<void> {
  if (first === '--asked') {
    const asked = JSON.parse(second) as Asked;
    console.log(
      JSON.stringify(asked.kinds.flatMap((kind) => asked.seeds.flatMap((seed) => measure(kind, seed, asked)))),
    );
    return;
  }
  const [count, from] = [Number(first ?? 20), Number(third ?? 610_000)];
  const seeds = Array.from({ length: count }, (_, i) => from + i);
  const recorded = (fifth ?? 'alike') as Asked['recorded'];
  const part = (second ?? 'aside') as Part;
  const kinds = sixth ? (sixth.split(',') as CaseKind[]) : CASE_KINDS;
  const all = await measureOtherClips({
    kinds,
    part,
    seeds,
    others: Number(fourth ?? 4),
    recorded,
    converted: seventh === 'converted',
  });
  for (const kind of kinds) {
    const some = all.filter((m) => m.kind === kind);
    const sum = (key: 'untouched' | 'alone' | 'beside'): number => some.reduce((s, m) => s + m[key], 0);
    const told = (key: 'alone' | 'beside'): string => {
      const known = some.filter((m) => (key === 'alone' ? m.knownAlone : m.knownBeside)).length;
      const worse = some.filter((m) => m[key] > m.untouched + 0.5).length;
      return `${(sum(key) / sum('untouched')).toFixed(3)} of untouched, known ${((100 * known) / some.length).toFixed(0)} %, worse ${worse}`;
    };
    console.log(`${kind.padEnd(7)} alone ${told('alone')} | with others ${told('beside')}`);
  }
}

if (isProgram('otherClips')) void main(process.argv.slice(2));
