import { nearestIssue, sentenceOf } from '@inkavo/core/model/sentence';
import { profileSchema, STANDARD, type Profile, type TransferSpec } from '@inkavo/core/model/profile';
import { ACESCCT } from '@inkavo/core/colour/transfer';
import { PRIMARIES, type PrimariesName } from '@inkavo/core/colour/primaries';

/** Editable numbers of a curve, with their names (as in the Common LUT Format's camera form). */
export const LOG_FIELDS = [
  { key: 'base', label: 'Base' },
  { key: 'logSideSlope', label: 'Log side slope' },
  { key: 'logSideOffset', label: 'Log side offset' },
  { key: 'linSideSlope', label: 'Linear side slope' },
  { key: 'linSideOffset', label: 'Linear side offset' },
  { key: 'linSideBreak', label: 'Linear side break' },
  { key: 'linearSlope', label: 'Linear slope (may be left out)' },
] as const;
export const XY_FIELDS = ['red', 'green', 'blue', 'white'] as const;

export type CurveName = TransferSpec['kind'];
export const CURVES: readonly { value: CurveName; title: string; note: string }[] = [
  { value: 'logCamera', title: 'Log curve', note: 'seven numbers' },
  { value: 'gamma', title: 'Plain gamma', note: 'one exponent' },
  { value: 'hlg', title: 'Hybrid log-gamma', note: 'BT.2100' },
  { value: 'pq', title: 'PQ', note: 'BT.2100' },
  { value: 'bt709', title: 'BT.709', note: 'standard video' },
  { value: 'srgb', title: 'sRGB', note: 'IEC 61966-2-1' },
  { value: 'bt1886', title: 'Gamma 2.4', note: 'BT.1886' },
];
export const PRIMARIES_CHOICES: readonly { value: PrimariesName | 'typed'; title: string }[] = [
  { value: 'bt709', title: 'BT.709' },
  { value: 'bt2020', title: 'BT.2020' },
  { value: 'p3d65', title: 'P3' },
  { value: 'ap1', title: 'AP1' },
  { value: 'typed', title: 'Typed' },
];

/** A profile being edited: all numbers as text. */
export interface ProfileDraft {
  name: string;
  curve: CurveName;
  exponent: string;
  log: Record<string, string>;
  primaries: PrimariesName | 'typed';
  xy: Record<string, string>;
}

const texts = (numbers: object): Record<string, string> =>
  Object.fromEntries(
    Object.entries(numbers)
      .filter(([, v]) => typeof v === 'number')
      .map(([k, v]) => [k, String(v)]),
  );

const xyTexts = (p: Exclude<Profile['primaries'], string>): Record<string, string> =>
  Object.fromEntries(
    XY_FIELDS.flatMap((k) => [
      [`${k}X`, String(p[k].x)],
      [`${k}Y`, String(p[k].y)],
    ]),
  );

/** Initial values of a new profile: a published log curve (ACEScct, Academy S-2016-001). */
export function draftOf(profile: Profile | null): ProfileDraft {
  const { transfer, primaries, name } = profile ?? {
    ...STANDARD,
    name: '',
    transfer: { kind: 'logCamera', ...ACESCCT },
  };
  return {
    name,
    curve: transfer.kind,
    exponent: transfer.kind === 'gamma' ? String(transfer.exponent) : '2.2',
    log: texts(transfer.kind === 'logCamera' ? transfer : ACESCCT),
    primaries: typeof primaries === 'string' ? primaries : 'typed',
    xy: xyTexts(typeof primaries === 'string' ? PRIMARIES[primaries] : primaries),
  };
}

/** Parses a number with a point or a comma. */
export const numberOf = (text: string | undefined): number | undefined =>
  text === undefined || text.trim() === '' ? undefined : Number(text.trim().replace(',', '.'));

/** The edited profile, or an error message. */
export function profileOf(draft: ProfileDraft): { profile: Profile } | { problem: string } {
  const { curve, primaries, xy } = draft;
  const numbers = Object.fromEntries(LOG_FIELDS.map(({ key }) => [key, numberOf(draft.log[key])]));
  const transfer = {
    kind: curve,
    ...(curve === 'gamma' ? { exponent: numberOf(draft.exponent) } : {}),
    ...(curve === 'logCamera' ? numbers : {}),
  };
  const typed = Object.fromEntries(XY_FIELDS.map((k) => [k, { x: numberOf(xy[`${k}X`]), y: numberOf(xy[`${k}Y`]) }]));
  const parsed = profileSchema.safeParse({
    name: draft.name.trim(),
    transfer,
    primaries: primaries === 'typed' ? typed : primaries,
  });
  if (parsed.success) return { profile: parsed.data };
  if (draft.name.trim() === '') return { problem: 'A name is needed.' };
  const issue = nearestIssue(parsed.error.issues[0]);
  return { problem: `${placeOf(issue.path)}: ${lowerFirst(sentenceOf(issue))}` };
}

const lowerFirst = (text: string): string => text[0].toLowerCase() + text.slice(1);
const upperFirst = (text: string): string => text[0].toUpperCase() + text.slice(1);

/** Name of a value on the sheet. */
function placeOf(path: readonly PropertyKey[]): string {
  const names = path.map(String);
  const field = LOG_FIELDS.find(({ key }) => key === names.at(-1));
  return field ? field.label.replace(/ \(.*/, '') : upperFirst(names.slice(1).join(' ') || 'Profile');
}
