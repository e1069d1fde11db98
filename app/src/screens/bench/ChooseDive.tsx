import { useState } from 'react';
import { diveAround, type DiveLog } from '@inkavo/core/model/diveLog';
import { useBench } from '../../state/bench';
import { Button } from '../../ui/Button';
import { Txt } from '../../ui/Txt';
import { diveTitle } from './diveText';

/** Number of dives shown initially. */
const FEW = 12;

/** Dives sorted by proximity to a time; in file order if a time is missing. */
function nearestFirst(dives: readonly DiveLog[], recordedAt: string | null): DiveLog[] {
  const apart = ({ startedAt }: DiveLog): number => {
    const ms = Math.abs(Date.parse(startedAt ?? '') - Date.parse(recordedAt ?? ''));
    return Number.isNaN(ms) ? Infinity : ms;
  };
  return [...dives].sort((a, b) => (apart(a) === apart(b) ? 0 : apart(a) - apart(b)));
}

/** Chooses among the dives of a log: the one that matches by both clocks first, then the nearest in time. */
export function ChooseDive({ dives, onLog }: { dives: readonly DiveLog[]; onLog(log: DiveLog): void }) {
  const recordedAt = useBench.getState().opened?.clip.facts.recordedAt ?? null;
  const [all, setAll] = useState(false);
  const met = diveAround(dives, recordedAt);
  const others = nearestFirst(dives, recordedAt).filter((d) => d !== met);
  const titleOf = (dive: DiveLog): string => diveTitle(dive, dives.indexOf(dive) + 1);
  const shown = all ? others : others.slice(0, FEW);
  return (
    <>
      <Txt bold>Which dive is it?</Txt>
      <Txt>
        There are {dives.length} dives in {dives[0].name}.
        {met ? ' One was under way when this clip was recorded, by both clocks.' : ''}
      </Txt>
      {met ? <Button title={titleOf(met)} look="strong" onPress={() => onLog(met)} /> : null}
      {shown.map((dive) => (
        <Button key={dives.indexOf(dive)} title={titleOf(dive)} onPress={() => onLog(dive)} />
      ))}
      {shown.length < others.length ? (
        <Button title={`All ${dives.length}`} look="bare" onPress={() => setAll(true)} />
      ) : null}
    </>
  );
}
