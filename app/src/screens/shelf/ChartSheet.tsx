import { useState } from 'react';
import { ActivityIndicator, View } from 'react-native';
import { fitCurve, FEWEST_PATCHES, type FittedCurve } from '@inkavo/core/model/fitProfile';
import type { PrimariesName } from '@inkavo/core/colour/primaries';
import type { Profile } from '@inkavo/core/model/profile';
import { Button, IconButton } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Field } from '../../ui/Field';
import { Trash } from '../../ui/icons';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { ChartPicture, percent, type Read } from './ChartPicture';
import { GroupField } from './GroupField';
import { places, Seen, useKeepProfile } from './ProfileParts';
import { usePreview } from './preview';
import { numberOf, PRIMARIES_CHOICES } from './profileDraft';
import type { ShelfUse } from './shelfUse';

const WIDTH = 1280;
/** Reflectance of the six neutral patches of a common colour chart in percent, brightest first (from memory). */
const USUAL = ['90', '59.1', '36.2', '19.8', '9', '3.1'];
const PRIMARIES = PRIMARIES_CHOICES.filter((p) => p.value !== 'typed');

interface Tapped extends Read {
  /** Percentage as typed. */
  light: string;
}

/** The fitted curve, or what prevents it. */
function fitted(tapped: readonly Tapped[]): { curve: FittedCurve } | { problem: string } | null {
  if (tapped.length < FEWEST_PATCHES) return null;
  const patches = tapped.map((t) => ({ code: t.code, light: (numberOf(t.light) ?? Number.NaN) / 100 }));
  const wrong = patches.findIndex((p) => !(p.light > 0 && p.light <= 1.5));
  if (wrong >= 0) return { problem: `Patch ${wrong + 1}: its light is a number above 0, in percent.` };
  try {
    return { curve: fitCurve(patches) };
  } catch (error) {
    return { problem: (error as Error).message };
  }
}

/** Creates a profile from a grey ramp or a chart in the frame: patches are tapped, their reflectance is typed. */
export function ChartSheet({ use, groups, onClose }: { use: ShelfUse; groups: readonly string[]; onClose(): void }) {
  const { data, error } = usePreview(use.on, [], WIDTH, true);
  const [tapped, setTapped] = useState<Tapped[]>([]);
  const [name, setName] = useState('');
  const [group, setGroup] = useState('');
  const [primaries, setPrimaries] = useState<PrimariesName>('bt709');
  const { keep, trouble } = useKeepProfile(onClose);
  const fit = fitted(tapped);
  const profile: Profile | null =
    fit && 'curve' in fit ? { name: name.trim() || 'New', transfer: fit.curve.transfer, primaries } : null;
  const change = (i: number, light: string): void =>
    setTapped((list) => list.map((t, k) => (k === i ? { ...t, light } : t)));
  return (
    <Sheet title="A profile from a filmed chart" onClose={onClose}>
      <Txt quiet>
        Put a finger on the picture and lift it on each neutral patch, brightest first; then type how much light each
        reflects.
      </Txt>
      {error ? <Trouble text={error.message} /> : null}
      <div style={{ borderRadius: 4, overflow: 'hidden', background: 'var(--surround)' }}>
        {data ? (
          <ChartPicture
            src={data}
            taken={tapped}
            onTake={(read) => setTapped((list) => [...list, { ...read, light: USUAL[list.length] ?? '' }])}
          />
        ) : (
          <div style={{ aspectRatio: '16 / 9', display: 'flex', alignItems: 'center', justifyContent: 'center' }}>
            <ActivityIndicator color="#ffffff" accessibilityLabel="Drawing the frame" />
          </div>
        )}
      </div>
      {tapped.map((t, i) => (
        <View key={`${t.x} ${t.y}`} className="flex-row items-end gap-2">
          <View className="h-[48px] min-w-0 flex-1 justify-center">
            <Txt numberOfLines={1}>
              {i + 1}: filmed at {percent(t.code)}
            </Txt>
          </View>
          <View className="w-[140px]">
            <Field
              label={`Light of patch ${i + 1}, %`}
              value={t.light}
              inputMode="decimal"
              onChange={(text) => change(i, text)}
            />
          </View>
          <IconButton
            label={`Forget patch ${i + 1}`}
            icon={Trash}
            onPress={() => setTapped((list) => list.filter((_, k) => k !== i))}
          />
        </View>
      ))}
      <Txt role="status" size="sm">
        {fit === null
          ? `${FEWEST_PATCHES - tapped.length} more needed.`
          : 'problem' in fit
            ? fit.problem
            : `Patches are met within ${percent(fit.curve.residual)} of the code range, at most ${percent(fit.curve.most)} off. ${profile ? (places(profile) ?? '') : ''}`}
      </Txt>
      {profile ? <Seen use={use} profile={profile} /> : null}
      {trouble ? <Trouble text={trouble} /> : null}
      <Field label="Name" value={name} onChange={setName} />
      <GroupField value={group} groups={groups} onChange={setGroup} />
      <Txt size="sm" quiet>
        Primaries: a grey ramp does not tell them
      </Txt>
      <Choice
        label="Primaries"
        value={primaries}
        options={PRIMARIES as { value: PrimariesName; title: string }[]}
        onChange={setPrimaries}
      />
      <Button
        title="Put on the shelf"
        look="strong"
        disabled={!name.trim() || !profile}
        onPress={() => profile && void keep({ profile }, group)}
      />
    </Sheet>
  );
}
