import { rmSync, writeFileSync } from 'node:fs';
import { extname } from 'node:path';
import { secondsOf, type MediaFacts } from '@inkavo/core/model/facts';
import { PICTURES } from './limits';
import { describe, PROBE, probe } from './probe';
import { MediaError, QUIET, run } from './run';

/** Containers whose packets can be copied to MP4 or MOV. */
const QUICKTIME = /^\.(mp4|mov|m4v)$/i;

/** Input for the codec library's `concat` demuxer, with the duration of each file. */
export const concatList = (files: readonly { path: string; seconds: number }[]): string =>
  [
    'ffconcat version 1.0',
    ...files.flatMap(({ path, seconds }) => [`file ${quoted(path)}`, `duration ${seconds.toFixed(6)}`]),
    '',
  ].join('\n');

const quoted = (path: string): string => `'${path.replaceAll("'", "'\\''")}'`;

/** Properties that must match for packets of all chapters to form one stream. */
const FORMAT = {
  codec: 'codec',
  width: 'size',
  height: 'size',
  rotation: 'rotation',
  depth: 'bit depth',
  chroma: 'chroma sampling',
  range: 'range',
  fields: 'order of fields',
} as const satisfies Partial<Record<keyof MediaFacts, string>>;

/**
 * Joins chapters of one recording into one file without reencoding. Each chapter begins where the previous one's frames
 * end. Throws a {@link MediaError} that names a chapter that does not match, or if frames are missing afterwards; the
 * file at `output` is then invalid. `names`: display names of the files.
 */
export async function joinChapters(
  paths: readonly string[],
  output: string,
  { names, signal }: { names: readonly string[]; signal?: AbortSignal },
): Promise<void> {
  const chapters: MediaFacts[] = [];
  /** Offset in seconds of each file's picture from its start: sound may begin earlier. */
  const late: number[] = [];
  let frames = 0;
  for (const [i, path] of paths.entries()) {
    const { facts, times } = await probe(path, signal);
    const other = Object.entries(FORMAT).find(
      ([key]) => facts[key as keyof typeof FORMAT] !== (chapters[0] ?? facts)[key as keyof typeof FORMAT],
    );
    if (other)
      throw new MediaError(
        `${names[i]} has another ${other[1]} than ${names[0]}, so they cannot be joined. Bring them in one by one.`,
      );
    chapters.push(facts);
    const { format } = await describe(path, { ...PROBE, signal });
    late.push(facts.startSeconds - Number(format?.start_time ?? facts.startSeconds));
    frames += times.length;
  }
  const list = `${output}.txt`;
  // Durations are those of the frames: a container's may be that of its sound, which would cause gaps or repeated
  // frames. Each file is positioned so that its picture begins where the previous one ends.
  const files = paths.map((path, i) => {
    const seconds = chapters[i].variableRate ? chapters[i].durationSeconds : secondsOf(chapters[i], chapters[i].frames);
    return { path, seconds: seconds + late[i] - (late[i + 1] ?? late[i]) };
  });
  writeFileSync(list, concatList(files));
  const container = names.every((name) => QUICKTIME.test(extname(name))) ? 'mov' : 'matroska';
  const joining = run(
    'ffmpeg',
    [
      ...QUIET,
      '-y',
      ...['-protocol_whitelist', 'file,pipe', '-fflags', '+genpts', '-f', 'concat', '-safe', '0', '-i', list],
      // The recording gets the tags of its first chapter.
      ...['-protocol_whitelist', 'file,pipe', '-i', paths[0]],
      ...['-map', `0:${PICTURES}`, '-map', '0:a?', '-map_metadata', '1', '-c', 'copy', '-fflags', '+bitexact'],
      ...(container === 'mov' ? ['-movflags', '+use_metadata_tags', '-f', 'mov'] : ['-f', 'matroska']),
      output,
    ],
    { signal, timeoutMs: 6 * 3_600_000 },
  );
  await joining.finally(() => rmSync(list, { force: true }));
  const joined = await probe(output, signal);
  if (joined.times.length !== frames)
    throw new MediaError(
      `Joined, the chapters have ${joined.times.length} frames in place of ${frames}. Bring them in one by one; the originals are untouched.`,
    );
}
