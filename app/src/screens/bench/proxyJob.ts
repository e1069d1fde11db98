import { useEffect } from 'react';
import { useQuery } from '@tanstack/react-query';
import { LONG_FRAMES } from '@inkavo/core/model/facts';
import type { Job } from '@inkavo/core/model/job';
import type { Clip } from '@inkavo/core/model/outing';
import type { ProxyParts } from '@inkavo/core/model/proxyParts';
import { api, type OutingOpened } from '../../api/client';
import { outingQuery, proxyPartsQuery, queries } from '../../api/queries';
import { useBench } from '../../state/bench';
import { tell } from '../../state/messages';
import { spell } from '../outing/timeLeft';

type Shown = Pick<Clip, 'id' | 'outingId'>;

/** The job is one of the recording, of which several clips may be parts. */
function jobIn(open: OutingOpened | undefined, clipId: string): Job | undefined {
  const hash = open?.clips.find((c) => c.id === clipId)?.hash;
  const parts = open?.clips.filter((c) => c.hash === hash).map((c) => c.id) ?? [];
  return open?.intake.find((job) => job.kind === 'proxy' && parts.includes(job.clipId ?? ''));
}

/** The current job for a clip's proxy, if any. */
export function useProxyJob({ id, outingId }: Shown): Job | undefined {
  const { data } = useQuery(outingQuery(outingId));
  return jobIn(data, id);
}

/** Whether a clip can be played: also during the creation of its proxy, if made in parts. */
export const canPlay = ({ proxy, facts }: Pick<Clip, 'proxy' | 'facts'>): boolean =>
  proxy === 'ready' || (proxy === 'waiting' && facts.frames > LONG_FRAMES);

/** Available parts of an unfinished proxy; undefined if it is complete, or made in one pass. */
export function useProxyParts(clip: Clip): ProxyParts | undefined {
  const inParts = clip.proxy === 'waiting' && canPlay(clip);
  const { data } = useQuery({ ...proxyPartsQuery(clip), enabled: inParts });
  return inParts ? data : undefined;
}

/**
 * Starts using the proxy when it is finished while the clip is open. Until then it has priority, starting at the
 * playhead.
 */
export function useProxyWatch(clip: Shown): void {
  const { data } = useQuery(outingQuery(clip.outingId));
  const proxy = data?.clips.find((c) => c.id === clip.id)?.proxy;
  useEffect(() => {
    const { opened, set } = useBench.getState();
    if (proxy && opened && opened.clip.proxy !== proxy) set({ opened: { ...opened, clip: { ...opened.clip, proxy } } });
  }, [proxy]);
  useEffect(() => {
    if (proxy === 'failed') useBench.getState().set({ playing: false });
    // The clip opened last has priority. On failure it keeps its place in the queue.
    if (proxy === 'waiting') api.wantProxy(clip.id, useBench.getState().frame).catch(() => undefined);
  }, [clip.id, proxy]);
}

/** Why a clip without a proxy does not play, and for how long. */
function whyNot(clip: Clip): string {
  if (clip.proxy === 'failed')
    return 'This clip has no proxy, so it does not play; why, is said in its outing. Its frames can be looked at one by one.';
  const job = jobIn(queries.getQueryData<OutingOpened>(outingQuery(clip.outingId).queryKey), clip.id);
  const how = job?.state === 'running' ? `is being made: ${Math.round(100 * job.progress)} %` : 'is to be made';
  const left = job?.secondsLeft ? `, about ${spell(job.secondsLeft)} left` : '';
  return `The proxy of this clip ${how}${left}. Then it plays; its frames can be looked at and worked on now.`;
}

/** Toggles playback of the clip on the bench, or explains why it cannot be played. */
export function togglePlay(): void {
  const { opened, playing, set } = useBench.getState();
  if (playing || (opened && canPlay(opened.clip))) set({ playing: !playing });
  else if (opened) tell({ key: 'player', text: whyNot(opened.clip), fades: true });
}
