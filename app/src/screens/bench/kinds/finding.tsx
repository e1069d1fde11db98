import { useEffect, useRef, useState } from 'react';
import type { Step } from '@inkavo/core/model/grade';
import { useBench, type BenchState } from '../../../state/bench';
import { ScanSearch } from '../../../ui/icons';
import { Tool } from '../../../ui/Tool';

/** Active steps before this one that act everywhere: approximately its input. */
export function stepsBefore(steps: readonly Step[], id: string): Step[] {
  const at = steps.findIndex((s) => s.id === id);
  return steps.slice(0, Math.max(0, at)).filter((s) => s.on && !s.region);
}

export interface Finding {
  busy: boolean;
  /** The result, or why there is none. */
  note: string;
  start(): void;
}

/**
 * Numbers of a step found by a measurement. `find` sets the numbers and returns a message; it is cancelled when the
 * controls unmount.
 */
export function useFinding(
  waiting: string,
  find: (state: BenchState & { opened: NonNullable<BenchState['opened']> }, signal: AbortSignal) => Promise<string>,
): Finding {
  const [{ busy, note }, setState] = useState({ busy: false, note: '' });
  const running = useRef<AbortController | null>(null);
  useEffect(() => () => running.current?.abort(), []);
  const start = async (): Promise<void> => {
    const state = useBench.getState();
    const { opened } = state;
    if (busy || !opened) return;
    const { signal } = (running.current = new AbortController());
    setState({ busy: true, note: waiting });
    const said = await find({ ...state, opened }, signal).catch((error: Error) => error.message);
    if (!signal.aborted) setState({ busy: false, note: said });
  };
  return { busy, note, start: () => void start() };
}

/** Starts it. */
export function FindTool({ label, finding }: { label: string; finding: Finding }) {
  return <Tool label={label} short="Find" icon={ScanSearch} on={finding.busy} onPress={finding.start} />;
}
