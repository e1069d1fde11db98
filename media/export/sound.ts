import type { DELIVERY_INFO, Codec } from '@inkavo/core/model/delivery';
import type { AudioTrack } from '@inkavo/core/model/facts';

/** Container of a delivered file. */
export type Container = (typeof DELIVERY_INFO)[Codec]['extension'];

const PCM = ['pcm_u8', 'pcm_s16le', 'pcm_s24le', 'pcm_s32le', 'pcm_f32le'];

/** Sound codecs that each container supports, and the fallback encoder. */
export const SOUND: Record<Container, { copied: readonly string[]; encoded: string[] }> = {
  mp4: { copied: ['aac', 'mp3', 'ac3', 'eac3', 'alac', 'opus'], encoded: ['-c:a', 'aac', '-b:a', '256k'] },
  mov: { copied: ['aac', 'mp3', 'ac3', 'eac3', 'alac', 'pcm_s16le', 'pcm_s24le'], encoded: ['-c:a', 'pcm_s16le'] },
  mkv: {
    copied: ['aac', 'mp3', 'mp2', 'ac3', 'eac3', 'dts', 'alac', 'opus', 'flac', 'vorbis', ...PCM],
    encoded: ['-c:a', 'flac'],
  },
};

/** Samples per packet of a codec (AAC: ISO/IEC 14496-3; MP2, MP3: 11172-3; AC-3: ETSI TS 102 366; from memory). */
const PACKET: Record<string, number> = { aac: 1024, mp2: 1152, mp3: 1152, ac3: 1536, eac3: 1536, dts: 512, opus: 960 };
/** Unnoticeable lead of sound over picture in seconds (ITU-R BT.1359: 45 ms, from memory). */
const UNNOTICED = 0.045;

/**
 * How a clip's sound is stored in a container: packets are copied if supported, otherwise encoded. Copied sound can
 * only be cut between packets: from the middle of a clip, sound with long or unknown packets is reencoded, so that it
 * begins with the picture. `fromStart`: it begins with the clip's first frame.
 */
export function soundCodec({ codec, sampleRate }: AudioTrack, container: Container, fromStart: boolean): string[] {
  const { copied, encoded } = SOUND[container];
  const isShort = PCM.includes(codec) || (PACKET[codec] ?? Infinity) / sampleRate <= UNNOTICED;
  return copied.includes(codec) && (fromStart || isShort) ? ['-c:a', 'copy'] : encoded;
}

/** Options for one delivered track: those that end in `:a` get its index appended. */
export const ofTrack = (place: number, options: readonly string[]): string[] =>
  options.map((option) => (option.endsWith(':a') ? `${option}:${place}` : option));
