import { useMemo, useState } from 'react';
import { View } from 'react-native';
import { Button } from '../../ui/Button';
import { Choice, ChoiceList } from '../../ui/Choice';
import { Field } from '../../ui/Field';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { GroupField } from './GroupField';
import { places, Seen, useKeepProfile } from './ProfileParts';
import {
  CURVES,
  draftOf,
  LOG_FIELDS,
  PRIMARIES_CHOICES,
  profileOf,
  XY_FIELDS,
  type ProfileDraft,
} from './profileDraft';
import { useShelf } from './shelfUse';

/** A profile by its numbers: the curve, and the primaries. */
export function ProfileSheet({ groups, onClose }: { groups: readonly string[]; onClose(): void }) {
  const use = useShelf();
  const [draft, setDraft] = useState<ProfileDraft>(() => draftOf(null));
  const [group, setGroup] = useState('');
  const { keep, trouble } = useKeepProfile(onClose);
  const made = useMemo(() => profileOf({ ...draft, name: draft.name || 'New' }), [draft]);
  const change = (part: Partial<ProfileDraft>): void => setDraft((d) => ({ ...d, ...part }));
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
        onPress={() => void keep(profileOf(draft), group)}
      />
    </Sheet>
  );
}
