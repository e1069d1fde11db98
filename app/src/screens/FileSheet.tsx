import { useQuery } from '@tanstack/react-query';
import { ActivityIndicator, View } from 'react-native';
import { audioTracks, fps } from '@inkavo/core/model/facts';
import type { Clip } from '@inkavo/core/model/outing';
import { isStandard } from '@inkavo/core/model/profile';
import { warningsOf } from '@inkavo/core/model/warnings';
import type { FileReading } from '@inkavo/core/reading/fileReading';
import { api } from '../api/client';
import { TriangleAlert } from '../ui/icons';
import { Trouble } from '../ui/Note';
import { Sheet } from '../ui/Sheet';
import { Txt } from '../ui/Txt';
import { timeText } from './bench/timeText';

/** Smaller shares are noise, and count as none. */
const NOTHING = 0.0005;

const percent = (v: number): string => `${(100 * v).toFixed(1)} %`;
const megabytes = (bytes: number): string => `${(bytes / 1e6).toFixed(1)} MB`;

/** Day and time from the file, in this device's time zone. */
function recordedText(at: string | null): string {
  const time = at ? new Date(at) : null;
  return time && !Number.isNaN(time.getTime())
    ? time.toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })
    : 'not said';
}

/** Properties stated by a file, one per line. */
function linesOf({ name, file, facts, bytes }: Clip): [string, string][] {
  const { tags, rotation } = facts;
  return [
    ...(file === name ? [] : ([['File', file]] satisfies [string, string][])),
    ['Size', `${facts.width}×${facts.height}${rotation ? `, turned by ${rotation}°` : ''}`],
    [
      'Frames',
      `${facts.frames} at ${Number(fps(facts).toFixed(3))} a second${facts.variableRate ? ' (varies in the file)' : ''}, ${timeText(facts.frames, fps(facts))}`,
    ],
    ['Codec', `${facts.codec.toUpperCase()}, ${(facts.bitrate / 1e6).toFixed(1)} Mbit/s, ${megabytes(bytes)}`],
    ['Depth', `${facts.depth} bit`],
    [
      'Sampling',
      `${facts.chroma.split('').join(':')}, chroma ${facts.chromaSite === 'left' ? 'at the left' : 'between columns'}`,
    ],
    ['Range', `${facts.range}${tags.range ? '' : ' (not tagged, taken)'}`],
    ['Matrix', `${facts.matrix}${tags.matrix ? '' : ' (not tagged, taken by its size)'}`],
    ['Primaries', tags.primaries ?? 'not tagged'],
    ['Transfer', tags.transfer ?? 'not tagged'],
    [
      'Sound',
      audioTracks(facts)
        .map(
          ({ codec, channels, sampleRate }) =>
            `${codec.toUpperCase()}, ${channels} channel${channels === 1 ? '' : 's'}, ${sampleRate / 1000} kHz`,
        )
        .join(' · ') || 'none',
    ],
    ['Recorded', recordedText(facts.recordedAt)],
    ['Time code', facts.timecode ?? 'none'],
    ['Camera', facts.camera ?? 'not said'],
  ];
}

/** Findings from the pictures, each as a sentence with its consequence. */
function readingsOf({ facts }: Clip, { recognition, lost }: FileReading): string[] {
  const [best] = recognition.ranked;
  const said: string[] = [];
  if (best && !isStandard(best.profile) && recognition.sure) {
    said.push(`The pictures look like ${best.profile.name}: convert them first.`);
    if (facts.depth === 8)
      said.push('8 bits for a flat recording: smooth skies and water may show steps once contrast is put back.');
    if (facts.tags.transfer === 'bt709')
      said.push('The tags say standard video, the pictures do not: the tags are not to be trusted.');
  }
  if (best && !recognition.sure)
    said.push('How it was recorded cannot be told for sure: choose under Convert, where the likely ones are shown.');
  if (lost.most >= NOTHING)
    said.push(
      `${percent(lost.mean)} of the pixels are lost in the file, at most ${percent(lost.most)} at ${lost.mostSeconds.toFixed(1)} s: no correction brings them back.`,
    );
  return said;
}

/** Properties of the file, as stated and as found in its pictures. */
export function FileSheet({ clip, onClose }: { clip: Clip; onClose(): void }) {
  const { data, error } = useQuery({
    queryKey: ['file-reading', clip.id],
    queryFn: ({ signal }) => api.fileReading(clip.id, signal),
  });
  const warnings = [...(data ? readingsOf(clip, data) : []), ...warningsOf(clip.facts)];
  return (
    <Sheet title={clip.name} onClose={onClose}>
      {error ? <Trouble text={error.message} /> : null}
      {!data && !error ? (
        <View className="flex-row items-center gap-3" role="status">
          <ActivityIndicator color="var(--ink)" />
          <Txt>Reading the pictures …</Txt>
        </View>
      ) : null}
      {warnings.map((text) => (
        <View key={text} className="flex-row items-start gap-2">
          <View className="pt-[2px]">
            <TriangleAlert size={16} color="var(--warn)" aria-hidden />
          </View>
          <Txt className="flex-1">{text}</Txt>
        </View>
      ))}
      {data && warnings.length === 0 ? <Txt>Nothing about this file needs care.</Txt> : null}
      <View className="gap-1 border-t-stroke border-line pt-3">
        {linesOf(clip).map(([name, text]) => (
          <View key={name} className="flex-row gap-3">
            <Txt quiet className="w-[92px]">
              {name}
            </Txt>
            <Txt className="flex-1">{text}</Txt>
          </View>
        ))}
      </View>
    </Sheet>
  );
}
