import { useQuery } from '@tanstack/react-query';
import PQueue from 'p-queue';
import { secondsOf, type MediaFacts } from '@inkavo/core/model/facts';
import type { Step } from '@inkavo/core/model/grade';
import { stepsAt } from '@inkavo/core/program/stepsAt';
import { api } from '../../api/client';

/** Concurrent previews: a browser has six connections to a server, and frames have priority. */
const queue = new PQueue({ concurrency: 3 });
/** Time after which unused previews are discarded. */
const KEPT_MS = 5 * 60_000;

/** The frame for previews. */
export interface PreviewFrame {
  clipId: string;
  frame: number;
  /** Seconds from the clip's first frame. */
  seconds: number;
}

export const frameOf = (
  { id, facts }: { id: string; facts: Pick<MediaFacts, 'frameRate'> },
  frame: number,
): PreviewFrame => ({
  clipId: id,
  frame,
  seconds: secondsOf(facts, frame),
});

const dataUrl = (blob: Blob): Promise<string> =>
  new Promise((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => resolve(reader.result as string);
    reader.onerror = () => reject(reader.error!);
    reader.readAsDataURL(blob);
  });

/** Steps with ids by position only: new copies then give the same picture. */
function numbered(steps: Step[]): Step[] {
  const ids = new Map(steps.map((s, i) => [s.id, `s${i}`]));
  return steps.map((s) => ({
    ...s,
    id: ids.get(s.id)!,
    ...(s.region === undefined ? {} : { region: ids.get(s.region) ?? s.region }),
  }));
}

/** A frame with steps applied, as a picture URL. `wanted`: whether it is visible. */
export function usePreview(on: PreviewFrame, given: Step[], width: number, wanted: boolean) {
  // Sent for every visible item: resolved at this frame they are small.
  const steps = numbered(stepsAt(given, on.seconds));
  return useQuery({
    queryKey: ['preview', on.clipId, on.frame, width, steps],
    queryFn: ({ signal }) =>
      queue.add(
        async () => {
          signal.throwIfAborted();
          return dataUrl(await api.preview(on.clipId, { steps, frame: on.frame, width }));
        },
        { priority: width },
      ) as Promise<string>,
    enabled: wanted,
    staleTime: Infinity,
    gcTime: KEPT_MS,
    retry: 1,
  });
}
