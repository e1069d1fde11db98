import { cameraOf } from '@inkavo/core/intake/cameraTags';
import type { FileHeader } from '@inkavo/core/model/source';
import { describe, pixelFormat, PROBE, rotationOf } from './probe';
import { fraction } from './rates';

/**
 * Reads a file's properties from its headers alone, so that a card of a hundred clips is scanned in seconds. Throws a
 * {@link MediaError} with a message for anything that is not a clip.
 */
export async function readHeader(path: string, signal?: AbortSignal): Promise<FileHeader> {
  const { video, sounds, format } = await describe(path, { ...PROBE, signal });
  const rate = fraction(video.avg_frame_rate) ?? fraction(video.r_frame_rate) ?? { num: 25, den: 1 };
  return {
    codec: video.codec_name ?? 'unknown',
    width: video.width!,
    height: video.height!,
    rotation: rotationOf(video),
    fps: rate.num / rate.den,
    depth: pixelFormat(video.pix_fmt ?? '').depth,
    seconds: Number(video.duration ?? format?.duration ?? 0) || 0,
    sound: sounds.at(0)?.codec_name ?? null,
    recordedAt: format?.tags?.creation_time ?? video.tags?.creation_time ?? null,
    camera: cameraOf({ ...video.tags, ...format?.tags }),
  };
}
