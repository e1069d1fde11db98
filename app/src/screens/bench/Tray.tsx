import { memo } from 'react';
import { View } from 'react-native';
import { secondsOf } from '@inkavo/core/model/facts';
import { changesOverTime } from '@inkavo/core/program/compile';
import { resolveParams } from '@inkavo/core/regions/keyframes';
import { stepKind, type NumberSpec } from '@inkavo/core/steps';
import { MarkIcon } from '../../instruments/marks';
import { Ruler } from '../../instruments/Ruler';
import { RulerGroup } from '../../instruments/RulerGroup';
import { shownLists, useBench, useOwnedStep } from '../../state/bench';
import { joined } from '@inkavo/core/model/lists';
import { useRegionTool } from '../../state/regions';
import { Choice } from '../../ui/Choice';
import type { Mark } from '@inkavo/core/scopes/readings';
import { Txt } from '../../ui/Txt';
import { KEYS_HEIGHT } from './Keys';
import { CONTROLS } from './kinds';
import { useRegionStep } from './region/inHand';
import { RegionTray, REGION_HEIGHT } from './region/RegionTray';
import { WhereRow } from './region/WhereSheet';

/** Height sufficient for the controls of every step on a narrow screen: region, head and three rows of rulers. */
export const TRAY_HEIGHT = 240;
export function trayHeight(kind: string | undefined, keying: boolean, placing: boolean): number {
  if (placing) return REGION_HEIGHT;
  const own = kind === undefined ? undefined : CONTROLS[kind]?.height;
  return own ?? (keying ? KEYS_HEIGHT : TRAY_HEIGHT);
}
/** Groups with more numbers have two columns. */
const MAX_ROWS = 3;
const MAX_WIDE_ROWS = 6;

/** A memoised ruler: its callbacks depend on its step and number alone. */
const StillRuler = memo(Ruler, (a, b) => a.value === b.value && a.spec === b.spec);

/** The visible numbers of a step, by group. */
function groupsOf(
  numbers: readonly NumberSpec[],
  params: Record<string, unknown>,
): { title: string; numbers: NumberSpec[] }[] {
  const groups = new Map<string, NumberSpec[]>();
  for (const n of numbers) {
    if (n.when && !n.when(params)) continue;
    const title = n.group ?? '';
    groups.set(title, [...(groups.get(title) ?? []), n]);
  }
  return [...groups].map(([title, list]) => ({ title, numbers: list }));
}

/** Groups for a part of the tonal range show its mark. */
const MARKS: Record<string, Mark | undefined> = {
  Shadows: 'shadows',
  Midtones: 'midtones',
  Highlights: 'highlights',
  Overall: 'overall',
};

/** The controls of the step in hand, or of the region in which it acts. */
export function Tray({ wide }: { wide?: boolean }) {
  const placing = useRegionTool((s) => s.placing);
  const region = useRegionStep();
  return placing && region ? <RegionTray /> : <StepTray wide={wide} />;
}

function StepTray({ wide }: { wide?: boolean }) {
  const owned = useOwnedStep(useBench((s) => s.inHand));
  const { setParams, settle } = useBench.getState();
  const group = useBench((s) => s.group);
  // Without keyframes the playhead's position is irrelevant here.
  const seconds = useBench((s) =>
    s.opened && changesOverTime(joined(shownLists(s))) ? secondsOf(s.opened.clip.facts, s.frame) : 0,
  );
  const setGroup = (next: string): void => useBench.getState().set({ group: next });
  if (!owned) {
    return (
      <View className="p-4">
        <Txt quiet>No step is in hand. Add one to change the picture.</Txt>
      </View>
    );
  }
  const { step } = owned;
  const kind = stepKind(step.kind);
  const own = CONTROLS[step.kind];
  const params: Record<string, unknown> = kind.schema.parse(resolveParams(step.params, seconds));
  const groups = groupsOf(own?.ownNumbers ? [] : kind.numbers, params);
  // Rulers that do not fit are shown by group, on a wide screen too.
  const tabs = groups.length > 1 && (!wide || kind.numbers.length > MAX_WIDE_ROWS);
  const shown = groups.find((g) => g.title === group) ?? groups[0] ?? { title: '', numbers: [] };
  // For steps with parts of the tonal range, numbers need the part's name.
  const named = !tabs && groups.some((g) => MARKS[g.title]);
  const choices = own?.ownChoices ? [] : (kind.choices ?? []);
  const columns = !wide && shown.numbers.length + choices.length > MAX_ROWS ? 2 : 1;
  return (
    <View className="bg-ground pt-[2px]" testID="tray">
      {kind.ofSource ? null : <WhereRow id={step.id} />}
      {own?.Head ? <own.Head key={step.id} id={step.id} params={params} wide={wide} /> : null}
      {tabs ? (
        <View className="h-[48px] justify-center px-2">
          <Choice
            label="Group of numbers"
            value={shown.title}
            options={groups.map((g) => ({ value: g.title, title: g.title, mark: MARKS[g.title] }))}
            onChange={setGroup}
          />
        </View>
      ) : null}
      <RulerGroup keys={(tabs ? [shown] : groups).flatMap((g) => g.numbers.map((n) => n.key))}>
        {(tabs ? [shown] : groups).map((g) => (
          <View
            key={g.title}
            aria-label={g.title || undefined}
            role={g.title ? 'group' : undefined}
            className={!tabs && groups.length > 1 ? 'border-b-stroke border-line py-1' : ''}
          >
            {named ? (
              <View className="h-[24px] flex-row items-center gap-2 px-[44px]">
                {MARKS[g.title] ? <MarkIcon mark={MARKS[g.title]!} colour="var(--quiet)" size={14} /> : null}
                <Txt size="sm" quiet>
                  {g.title}
                </Txt>
              </View>
            ) : null}
            <View className="flex-row flex-wrap">
              {g.numbers.map((spec) => (
                <View key={`${step.id} ${spec.key}`} style={{ width: `${100 / columns}%` }}>
                  <StillRuler
                    spec={spec}
                    value={params[spec.key] as number}
                    onChange={(v, live) => setParams(step.id, { [spec.key]: v }, live)}
                    onSettle={settle}
                  />
                </View>
              ))}
            </View>
          </View>
        ))}
      </RulerGroup>
      {choices.map(({ key, label, options }) => (
        <View key={key} className="h-[48px] flex-row items-center gap-3 px-2">
          <Txt quiet>{label}</Txt>
          <View className="flex-1">
            <Choice
              label={label}
              value={params[key] as string}
              options={options.map((o) => ({ ...o, mark: MARKS[o.title] }))}
              onChange={(v) => setParams(step.id, { [key]: v })}
            />
          </View>
        </View>
      ))}
    </View>
  );
}
