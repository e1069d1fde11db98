import { useEffect, useRef, useState } from 'react';
import type { Step } from '@inkavo/core/model/grade';
import { joined } from '@inkavo/core/model/lists';
import type { ListedClip } from '@inkavo/core/model/outing';
import { api } from '../../api/client';
import { act } from '../../state/commands';
import { listsOf } from '../../state/lists';
import { takeSteps } from '../../state/stepLists';
import { Button } from '../../ui/Button';
import { Progress } from '../../ui/Progress';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';

interface Made {
  id: string;
  from: Step[];
  to: Step[];
}

/**
 * A first pass on each of several clips: what it proposes is taken, as one thing to undo. Clips with steps that do
 * something are left alone, and so are those in which it finds nothing to mend.
 */
export function FirstPassMany({
  clips,
  onDone,
  onClose,
}: {
  clips: readonly ListedClip[];
  onDone(): void;
  onClose(): void;
}) {
  const fresh = clips.filter((c) => c.work === 0);
  const [going, setGoing] = useState(false);
  const [read, setRead] = useState(0);
  const [failed, setFailed] = useState<string[]>([]);
  const [made, setMade] = useState<Made[]>([]);
  const controller = useRef<AbortController | null>(null);
  useEffect(() => () => controller.current?.abort(), []);
  const begin = async (): Promise<void> => {
    setGoing(true);
    controller.current = new AbortController();
    const { signal } = controller.current;
    const found: Made[] = [];
    for (const { id, name } of fresh) {
      if (signal.aborted) break;
      try {
        const opened = await api.clip(id);
        const lists = listsOf(opened);
        const setting = opened.camera.setting ?? undefined;
        const { explanations } = await api.firstPass(id, { steps: joined(lists), setting }, { signal });
        const steps = explanations[0].proposals.map((p) => p.step);
        if (steps.length) found.push({ id, from: lists.clip, to: takeSteps(lists, steps).lists.clip });
      } catch (error) {
        if (signal.aborted) break;
        setFailed((list) => [...list, `${name}: ${(error as Error).message}`]);
      }
      setRead((n) => n + 1);
      setMade([...found]);
    }
    setGoing(false);
  };
  const take = async (): Promise<void> => {
    const what = `first pass on ${made.length === 1 ? 'a clip' : `${made.length} clips`}`;
    const command = {
      place: clips[0].outingId,
      what,
      done: made.map(({ id, from, to }) => ({ on: 'steps' as const, id, from, to })),
      undone: made.map(({ id, from, to }) => ({ on: 'steps' as const, id, from: to, to: from })),
    };
    if (await act(command, `Taken: ${what}.`)) onDone();
  };
  const many = (n: number): string => `${n} clip${n === 1 ? '' : 's'}`;
  const skipped = clips.length - fresh.length;
  const over = !going && read > 0;
  return (
    <Sheet title="First pass on each" onClose={onClose}>
      <Txt>
        Every clip is read whole, and what would mend it becomes ordinary steps.
        {skipped ? ` ${many(skipped)} with work in ${skipped === 1 ? 'it stays' : 'them stay'} as they are.` : ''}
      </Txt>
      {read > 0 || going ? (
        <>
          <Txt role="status">
            {read} of {fresh.length} read: {many(made.length)} to mend, {read - made.length - failed.length} good as
            they are.
          </Txt>
          <Progress label="Reading the clips" value={read / Math.max(1, fresh.length)} />
        </>
      ) : null}
      {failed.map((text) => (
        <Txt key={text} size="sm">
          {text}
        </Txt>
      ))}
      {going ? (
        <Button title="Stop here" onPress={() => controller.current?.abort()} />
      ) : over ? (
        <Button
          title={made.length ? `Take them: ${many(made.length)}` : 'Nothing to take'}
          look="strong"
          disabled={made.length === 0}
          onPress={() => void take()}
        />
      ) : (
        <Button
          title={fresh.length ? `Read ${many(fresh.length)}` : 'All have work in them'}
          look="strong"
          disabled={fresh.length === 0}
          onPress={() => void begin()}
        />
      )}
    </Sheet>
  );
}
