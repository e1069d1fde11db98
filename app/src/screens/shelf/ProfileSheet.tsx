import { useQueryClient } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { View } from 'react-native';
import type { Profile } from '@inkavo/core/model/profile';
import { signalToLinear } from '@inkavo/core/steps/convert/transfer';
import { api } from '../../api/client';
import { tell } from '../../state/messages';
import { Button } from '../../ui/Button';
import { Choice, ChoiceList } from '../../ui/Choice';
import { Field } from '../../ui/Field';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { GroupField } from './GroupField';
import { usePreview } from './preview';
import {
  CURVES,
  draftOf,
  LOG_FIELDS,
  PRIMARIES_CHOICES,
  profileOf,
  XY_FIELDS,
  type ProfileDraft,
} from './profileDraft';
import { useShelf, type ShelfUse } from './shelfUse';

const WIDTH = 640;
const PICTURE = {
  width: '100%',
  aspectRatio: '16 / 9',
  objectFit: 'cover',
  display: 'block',
  borderRadius: 4,
} as const;

function Seen({ use, profile }: { use: ShelfUse; profile: Profile }) {
  const item = { id: 'typed', kind: 'profile', title: profile.name, group: '', note: '', profile } as const;
  const { data } = usePreview(use.on, use.put(item), WIDTH, true);
  return data ? <img src={data} alt="The frame with this profile" style={PICTURE} /> : <div style={PICTURE} />;
}

/** Where grey and white lie with a curve: what a person can check against the maker's table. */
function places(profile: Profile): string | null {
  try {
    const decode = signalToLinear(profile.transfer);
    const codeOf = (light: number): number => {
      let [low, high] = [-0.2, 1.4];
      for (let i = 0; i < 40; i += 1) {
        const mid = (low + high) / 2;
        if (decode(mid) < light) low = mid;
        else high = mid;
      }
      return low;
    };
    const [black, grey, white] = [0, 0.18, 1].map((l) => `${(100 * codeOf(l)).toFixed(1)} %`);
    return `Black at ${black}, 18 % grey at ${grey}, white at ${white}.`;
  } catch {
    return null;
  }
}

/** A profile by its numbers: the curve, and the primaries. */
export function ProfileSheet({ groups, onClose }: { groups: readonly string[]; onClose(): void }) {
  const client = useQueryClient();
  const use = useShelf();
  const [draft, setDraft] = useState<ProfileDraft>(() => draftOf(null));
  const [group, setGroup] = useState('');
  const [trouble, setTrouble] = useState<string | null>(null);
  const made = useMemo(() => profileOf({ ...draft, name: draft.name || 'New' }), [draft]);
  const change = (part: Partial<ProfileDraft>): void => setDraft((d) => ({ ...d, ...part }));
  const keep = async (): Promise<void> => {
    const final = profileOf(draft);
    if ('problem' in final) return setTrouble(final.problem);
    try {
      await api.putOnShelf({ kind: 'profile', profile: final.profile, group });
      void client.invalidateQueries({ queryKey: ['shelf'] });
      tell({ key: 'profile', text: `"${final.profile.name}" is on the shelf.`, fades: true });
      onClose();
    } catch (error) {
      setTrouble((error as Error).message);
    }
  };
  const where = 'profile' in made ? places(made.profile) : null;
  return (
    <Sheet title="A profile by its numbers" onClose={onClose}>
      {use && 'profile' in made && where ? <Seen use={use} profile={made.profile} /> : null}
      <Txt size="sm" role="status">
        {where ?? ('problem' in made ? made.problem : 'This curve makes no sense: it does not rise.')}
      </Txt>
      {trouble ? <Trouble text={trouble} /> : null}
      <Field label="Name" value={draft.name} onChange={(name) => change({ name })} />
      <GroupField value={group} groups={groups} onChange={setGroup} />
      <ChoiceList label="Curve" value={draft.curve} options={CURVES} onChange={(curve) => change({ curve })} />
      {draft.curve === 'gamma' ? (
        <Field
          label="Exponent"
          value={draft.exponent}
          inputMode="decimal"
          onChange={(exponent) => change({ exponent })}
        />
      ) : null}
      {draft.curve === 'logCamera'
        ? LOG_FIELDS.map(({ key, label }) => (
            <Field
              key={key}
              label={label}
              value={draft.log[key] ?? ''}
              inputMode="decimal"
              onChange={(text) => change({ log: { ...draft.log, [key]: text } })}
            />
          ))
        : null}
      <Txt size="sm" quiet>
        Primaries
      </Txt>
      <Choice
        label="Primaries"
        value={draft.primaries}
        options={PRIMARIES_CHOICES}
        onChange={(primaries) => change({ primaries })}
      />
      {draft.primaries === 'typed'
        ? XY_FIELDS.map((k) => (
            <View key={k} className="flex-row gap-2">
              {(['X', 'Y'] as const).map((axis) => (
                <View key={axis} className="min-w-0 flex-1">
                  <Field
                    label={`${k[0].toUpperCase()}${k.slice(1)} ${axis.toLowerCase()}`}
                    value={draft.xy[`${k}${axis}`] ?? ''}
                    inputMode="decimal"
                    onChange={(text) => change({ xy: { ...draft.xy, [`${k}${axis}`]: text } })}
                  />
                </View>
              ))}
            </View>
          ))
        : null}
      <Button
        title="Put on the shelf"
        look="strong"
        disabled={!draft.name.trim() || 'problem' in made || where === null}
        onPress={() => void keep()}
      />
    </Sheet>
  );
}
