import { z } from 'zod';
import { secondsOf } from '@inkavo/core/model/facts';
import { idSchema } from '@inkavo/core/model/outing';
import { simplifyKeys } from '@inkavo/core/follow/simplifyKeys';
import { poseSchema, SHAPE_KINDS, type PoseKey } from '@inkavo/core/regions/shape';
import type { FollowAnswer, StretchState } from '@inkavo/core/follow/stretch';
import { MediaError } from '@inkavo/media/codec';
import { lumaFrames } from '@inkavo/media/reading/lumaFrames';
import { inThread } from '@inkavo/media/threads/pool';
import type { Api } from '../http/api';
import { inLines, LINES } from '../http/lines';
import type { Parts } from '../parts';

const one = z.object({ id: idSchema });
const followRequest = z.object({
  kind: z.enum(SHAPE_KINDS),
  pose: poseSchema,
  /** The frame in which the shape has this pose, and the last frame of the range; it may be earlier. */
  from: z.number().int().min(0),
  to: z.number().int().min(0),
});

/** Frames decoded and tracked per stretch: bounds memory, and gives progress. */
const AT_ONCE = 24;

/** Tracks the content of a shape over a clip. */
export function followRoutes(api: Api, { clips, library }: Parts): void {
  api.route(
    {
      method: 'post',
      path: '/clips/{id}/follow',
      summary: 'Follow what lies inside a shape, forwards or backwards',
      params: one,
      body: followRequest,
      answers: LINES,
    },
    async ({ params, body: { kind, pose, from, to }, res }) => {
      const clip = await clips.get(params.id);
      const source = await clips.source(clip, library.original(clip.hash));
      const proxy = clip.proxy === 'ready' ? library.proxy(clip.hash) : undefined;
      const lastFrame = clip.facts.frames - 1;
      const end = Math.min(to, lastFrame);
      const by = end < from ? -1 : 1;
      const seconds = (frame: number): number => secondsOf(clip.facts, frame);
      await inLines(res, async (say, signal) => {
        const keys: PoseKey[] = [{ ...pose, seconds: seconds(from), ease: 'linear' }];
        let state: StretchState | undefined;
        let lost: string | null = null;
        let at = Math.min(from, lastFrame);
        const total = Math.abs(end - at);
        // The first stretch begins with the frame of the given pose.
        let begin = at;
        while (at !== end && lost === null) {
          const until = by > 0 ? Math.min(end, begin + AT_ONCE - 1) : Math.max(end, begin - AT_ONCE + 1);
          const frames = Array.from({ length: Math.abs(until - begin) + 1 }, (_, i) => begin + by * i);
          const [first, last] = by > 0 ? [begin, until] : [until, begin];
          const found = await lumaFrames(source, { proxy, first, last }, signal);
          const size = found.width * found.height;
          const order = by > 0 ? found.luma : reversed(found.luma, size);
          const known = frames.slice(0, found.frames);
          if (known.length === 0) throw new MediaError('No frame of this clip could be decoded here.');
          const stretch = { width: found.width, height: found.height, luma: order, seconds: known.map(seconds) };
          const answer = await inThread({ kind: 'follow', stretch, from: state ?? { kind, pose } }, { signal });
          if ('problem' in answer) throw new MediaError(answer.problem);
          keys.push(...answer.keys);
          ({ state, lost } = answer);
          at = known[known.length - 1];
          begin = at + by;
          say({ done: Math.abs(at - from), of: total });
          if (found.frames < frames.length) break;
        }
        const rising = by > 0 ? keys : keys.toReversed();
        const farthest = by > 0 ? rising[rising.length - 1] : rising[0];
        const { num, den } = clip.facts.frameRate;
        const answer: FollowAnswer = {
          keys: simplifyKeys(rising),
          frame: Math.round((farthest.seconds * num) / den),
          lost,
        };
        return answer;
      });
    },
  );
}

/** Frames in reverse order. */
function reversed(luma: Uint8Array, size: number): Uint8Array {
  const count = Math.floor(luma.length / size);
  const out = new Uint8Array(count * size);
  for (let k = 0; k < count; k += 1) out.set(luma.subarray(k * size, (k + 1) * size), (count - 1 - k) * size);
  return out;
}
