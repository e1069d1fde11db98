import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { ActivityIndicator, View } from 'react-native';
import Svg, { Path, Rect } from 'react-native-svg';
import { FormatError } from '@inkavo/core/formats/error';
import { readDives, type LengthUnit } from '@inkavo/core/formats/diveLog';
import { clipSeconds } from '@inkavo/core/model/facts';
import { clipBegins, depthAt, type ClipDive, type DiveLog } from '@inkavo/core/model/diveLog';
import { joined } from '@inkavo/core/model/lists';
import type { NumberSpec } from '@inkavo/core/steps';
import { followLog, followsLog } from '@inkavo/core/steps/water/followLog';
import { api } from '../../api/client';
import { Ruler } from '../../instruments/Ruler';
import { useBench, useOwnedStep } from '../../state/bench';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Droplets, FileUp, Pipette, Trash } from '../../ui/icons';
import { Trouble } from '../../ui/Note';
import { Txt } from '../../ui/Txt';
import { ChooseDive } from './ChooseDive';
import { DiveOthers } from './DiveOthers';
import { useFinding } from './kinds/finding';
import { diveInWords, lengthOf } from './diveText';
import { clockText } from './timeText';
import { PictureSheet } from './PictureSheet';

const CHART_HEIGHT = 110;
const CHART_WIDTH = 520;

/** The clip's dive log: import, offset, and coupling of the depth. */
export function DiveSheet({ stepId, onClose }: { stepId: string; onClose(): void }) {
  const dive = useBench((s) => s.dive);
  const step = useOwnedStep(stepId)?.step;
  const followed = step !== undefined && followsLog(step, dive);
  const [state, setState] = useState<{ busy: boolean; trouble: string | null; note: string | null }>({
    busy: false,
    trouble: null,
    note: null,
  });
  const fail = (error: unknown): void => setState({ busy: false, trouble: (error as Error).message, note: null });

  const following = (next: ClipDive) => ({ id: stepId, params: followLog(step?.params ?? {}, next, secondsHere()) });
  /** Sets a log with an offset; the depth of the step follows it. */
  const keepAndFollow = (next: ClipDive, note: string | null): void => {
    useBench.getState().setDive(next, following(next));
    setState({ busy: false, trouble: null, note });
  };
  const findClock = async (): Promise<void> => {
    setState({ busy: true, trouble: null, note: null });
    try {
      const { fit } = await api.diveClock(useBench.getState().opened!.clip.id, dive!.log);
      if (!fit)
        return setState({
          busy: false,
          trouble: null,
          note: 'The colour of this clip agrees with no place of the log well enough. Set the beginning by hand.',
        });
      const agreement = `${Math.round(100 * fit.agreement)} %`;
      keepAndFollow(
        { log: dive!.log, offset: fit.offset },
        `Red falls as the log goes deeper: ${agreement} agreement at ${clockText(fit.offset)}.`,
      );
    } catch (error) {
      fail(error);
    }
  };

  const water = useFinding('Reading the clip …', async ({ opened, lists, setParams }, signal) => {
    const asked = { steps: joined(lists), setting: 'water' as const, dive };
    const { explanations } = await api.firstPass(opened.clip.id, asked, { signal });
    const found = explanations[0].proposals.find(({ step }) => step.kind === 'water');
    if (!found) return 'The colours of this clip tell nothing of the water.';
    setParams(stepId, found.step.params);
    return found.reason;
  });

  return (
    <PictureSheet title="Dive log" onClose={onClose}>
      {state.trouble ? <Trouble text={state.trouble} /> : null}
      {dive ? (
        <>
          <Txt>
            {dive.log.name}: {dive.log.samples.length} samples, {diveInWords(dive.log)}
          </Txt>
          <DiveChart dive={dive} />
          <OffsetRuler
            key={dive.offset}
            dive={dive}
            onSet={(offset) => keepAndFollow({ log: dive.log, offset }, null)}
          />
          {state.busy ? (
            <ActivityIndicator color="var(--ink)" accessibilityLabel="Reading the clip's colour" />
          ) : (
            <Button title="Find by the clip's colour" icon={Pipette} onPress={() => void findClock()} />
          )}
          {state.note ? <Txt role="status">{state.note}</Txt> : null}
          {water.busy ? (
            <ActivityIndicator color="var(--ink)" accessibilityLabel={water.note} />
          ) : (
            <Button title="Find the water at these depths" icon={Droplets} onPress={water.start} />
          )}
          {!water.busy && water.note ? <Txt role="status">{water.note}</Txt> : null}
          {followed ? (
            <Txt quiet>The depth of this step has keyframes from the log. They can be changed like any others.</Txt>
          ) : (
            <Button
              title="Let the depth of this step follow it"
              onPress={() => useBench.getState().setDive(dive, following(dive))}
            />
          )}
          <DiveOthers dive={dive} />
          <Button
            title="Take the log away"
            icon={Trash}
            onPress={() => {
              useBench.getState().setDive(null);
              setState({ busy: false, trouble: null, note: null });
            }}
          />
        </>
      ) : (
        <BringLog
          onLog={(log) => keepAndFollow({ log, offset: beginning(log) }, null)}
          onTrouble={(t) => setState({ busy: false, trouble: t, note: null })}
        />
      )}
    </PictureSheet>
  );
}

const secondsHere = (): number => clipSeconds(useBench.getState().opened!.clip.facts);

/** The clip's offset in a log by both clocks; 0 if they do not match. */
const beginning = (log: DiveLog): number => clipBegins(log, useBench.getState().opened!.clip.facts.recordedAt) ?? 0;

function OffsetRuler({ dive, onSet }: { dive: ClipDive; onSet(offset: number): void }) {
  const [offset, setOffset] = useState(dive.offset);
  const spec: NumberSpec = {
    key: 'diveOffset',
    label: 'Clip begins at',
    unit: 'second',
    min: -600,
    max: lengthOf(dive.log) + 600,
    neutral: 0,
    step: 0.5,
  };
  return (
    <View>
      <Ruler
        spec={spec}
        value={offset}
        onChange={(v, live) => {
          setOffset(v);
          if (!live) onSet(v);
        }}
        onSettle={() => onSet(offset)}
      />
      <Txt size="sm" quiet>
        {clockText(offset)} of the dive, at {depthAt(dive.log, offset).toFixed(1)} m
      </Txt>
    </View>
  );
}

/** Depth over the dive, with the surface on top and the clip's part marked. */
function DiveChart({ dive: { log, offset } }: { dive: ClipDive }) {
  const long = lengthOf(log);
  const deepest = Math.max(1, ...log.samples.map((s) => s.metres));
  const x = (t: number): number => (t / Math.max(1, long)) * CHART_WIDTH;
  const y = (m: number): number => 4 + (m / deepest) * (CHART_HEIGHT - 8);
  const path = log.samples
    .map((s, i) => `${i ? 'L' : 'M'}${x(s.seconds).toFixed(1)} ${y(s.metres).toFixed(1)}`)
    .join('');
  const width = Math.max(3, x(secondsHere()));
  return (
    <View
      role="img"
      aria-label={`Depth over the dive; the clip covers the part from ${clockText(offset)}`}
      className="rounded border-stroke border-line bg-scope"
    >
      <Svg width="100%" height={CHART_HEIGHT} viewBox={`0 0 ${CHART_WIDTH} ${CHART_HEIGHT}`} preserveAspectRatio="none">
        <Rect x={x(offset)} y={0} width={width} height={CHART_HEIGHT} fill="#d7f75b" fillOpacity={0.45} />
        <Path d={path} stroke="#ffffff" strokeWidth={2} fill="none" vectorEffect="non-scaling-stroke" />
      </Svg>
    </View>
  );
}

/** Imports a log: from a file, or from the card. */
function BringLog({ onLog, onTrouble }: { onLog(log: DiveLog): void; onTrouble(text: string): void }) {
  const input = useRef<HTMLInputElement>(null);
  const [unit, setUnit] = useState<LengthUnit>('metre');
  /** The dives of a file with several, to choose one. */
  const [dives, setDives] = useState<DiveLog[] | null>(null);
  const { data: logs } = useQuery({ queryKey: ['diveLogs'], queryFn: api.cardLogs });
  const read = (text: string, name: string): void => {
    try {
      const found = readDives(text, name, { unit });
      if (found.length === 1) onLog(found[0]);
      else setDives(found);
    } catch (error) {
      if (!(error instanceof FormatError)) throw error;
      onTrouble(`${name}: ${error.message} Nothing was taken in.`);
    }
  };
  if (dives) return <ChooseDive dives={dives} onLog={onLog} />;
  return (
    <>
      <Txt>A log of depth over time (UDDF, or CSV with a head line). The depth of this step follows it.</Txt>
      {logs?.map(({ name, text }) => (
        <Button key={name} title={`From the card: ${name}`} onPress={() => read(text, name)} />
      ))}
      <input
        ref={input}
        type="file"
        accept=".uddf,.csv,.txt,.xml"
        aria-label="A dive log"
        style={{ display: 'none' }}
        onChange={(e) => {
          const [file] = e.target.files ?? [];
          if (file) void file.text().then((text) => read(text, file.name));
          e.target.value = '';
        }}
      />
      <Button title="Bring in a UDDF or CSV file" icon={FileUp} look="strong" onPress={() => input.current?.click()} />
      <View className="flex-row items-center gap-3">
        <Txt quiet className="flex-1">
          CSV depths without a unit are in
        </Txt>
        <Choice
          label="Unit of CSV depths"
          value={unit}
          options={[
            { value: 'metre', title: 'metres' },
            { value: 'foot', title: 'feet' },
          ]}
          onChange={setUnit}
        />
      </View>
    </>
  );
}
