import type { AudioTrack } from '@inkavo/core/model/facts';
import { MediaError, QUIET, run, SAFE_INPUT, type RunOptions } from './run';

/** What a file says of a sound track. */
interface SoundStream {
  codec_name?: string;
  channels?: number;
  sample_rate?: string;
}

/** Codecs that every build of the codec library decodes: tracks of others are tried. */
const DECODED = /^(aac|mp2|mp3|ac3|eac3|alac|flac|opus|vorbis|pcm_(u8|[sf](16|24|32)[lb]e))$/;

/**
 * A file's sound tracks that can be decoded, in its order, of `streams` that it describes. One that cannot, as of a codec that is
 * newer than the library, is left out.
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
