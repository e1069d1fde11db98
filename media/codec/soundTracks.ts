import type { AudioTrack } from '@inkavo/core/model/facts';
import { MediaError, QUIET, run, SAFE_INPUT, type RunOptions } from './run';

/** A file's description of a sound track. */
interface SoundStream {
  codec_name?: string;
  channels?: number;
  sample_rate?: string;
}

/** Codecs that every build of the codec library can decode; tracks with others are tested. */
const DECODED = /^(aac|mp2|mp3|ac3|eac3|alac|flac|opus|vorbis|pcm_(u8|[sf](16|24|32)[lb]e))$/;

/**
 * The decodable sound tracks among `streams`, in order. Tracks that cannot be decoded, such as those of codecs newer
 * than the library, are omitted.
 */
export async function soundTracks(
  path: string,
  streams: readonly SoundStream[],
  options: RunOptions,
): Promise<AudioTrack[]> {
  const tracks: AudioTrack[] = [];
  for (const [index, { codec_name: codec = 'unknown', channels = 0, sample_rate: rate }] of streams.entries())
    if (DECODED.test(codec) || (await decodes(path, index, options)))
      tracks.push({ index, codec, channels, sampleRate: Number(rate ?? 0) });
  return tracks;
}

/** Whether the first samples of a sound track can be decoded. */
async function decodes(path: string, index: number, options: RunOptions): Promise<boolean> {
  const args = [...QUIET, ...SAFE_INPUT, '-i', path, '-map', `0:a:${index}`, '-frames:a', '1', '-f', 'null', '-'];
  try {
    await run('ffmpeg', args, { signal: options.signal, timeoutMs: options.timeoutMs });
    return true;
  } catch (error) {
    if (options.signal?.aborted || !(error instanceof MediaError)) throw error;
    return false;
  }
}
