import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { basename, extname } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { DOCUMENTS, type DocumentForm } from '@inkavo/core/model/document';
import { lutTexts } from '@inkavo/core/steps/lut/library';
import { documentOf } from '@inkavo/media/documents';
import type { Outline } from '@inkavo/media/documents/outline';
import { writeWhole } from '@inkavo/media/files';
import { closeThreads } from '@inkavo/media/threads/pool';
import { CallError, mustBeFree, needed, numberFrom, openSource, showShare, type Command } from '../call';
import { gradeFrom } from '../gradeFile';
import { OUTING_OPTIONS, OUTING_USAGE, outingFrom } from '../library';

async function hashOf(file: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(file), hash);
  return hash.digest('hex');
}

/** Files with a common grade, as the subject of a document. */
async function outlineOf(files: string[], grade: string | undefined): Promise<Outline> {
  const steps = grade ? gradeFrom(grade).steps : [];
  const clips: Outline['clips'] = [];
  for (const file of files) {
    const source = await openSource(file);
    const last = source.facts.frames - 1;
    clips.push({
      ...{
        name: basename(file),
        file: basename(file),
        camera: source.facts.camera ?? '',
        sha256: await hashOf(file),
        source,
      },
      ...{ steps, luts: lutTexts(steps), ownerOf: () => null },
      ...{ inFrame: 0, outFrame: last, referenceFrame: last >> 1, retime: null },
    });
  }
  return { name: basename(files[0], extname(files[0])), place: '', date: new Date().toISOString().slice(0, 10), clips };
}

/** A command that generates documents; the output's extension determines which. */
const documents = (sort: 'report' | 'timeline', usage: string): Command => ({
  usage: `${sort} FILE … --output ${usage} [--grade G.json]${sort === 'timeline' ? ' [--dissolve SECONDS]' : ''}, or ${sort} ${OUTING_USAGE} --output …`,
  options: ['output', 'grade', ...OUTING_OPTIONS, ...(sort === 'timeline' ? ['dissolve'] : [])],
  withFiles: true,
  insteadOfFiles: 'outing',
  async run(_file, options, files) {
    const output = needed(options, 'output');
    const form: DocumentForm | undefined = DOCUMENTS.find((f) => f === `${sort}${extname(output)}`);
    if (!form) throw new CallError(`The output is one of ${usage.replaceAll('|', ', ')}.`);
    mustBeFree(output);
    const dissolve = numberFrom(options.dissolve, 'dissolve', 0, 3);
    if (options.outing !== undefined) {
      if (options.grade) throw new CallError('The clips of an outing have grades of their own: leave --grade out.');
      const { library, outing } = await outingFrom(options);
      const [job] = await library.make('/documents', { outingId: outing.id, form, dissolve });
      await library.fetch(job, output);
      return { data: { output, outing: outing.id }, lines: [`${output}: ${outing.name}`] };
    }
    const outline = await outlineOf(files, options.grade);
    try {
      writeWhole(output, await documentOf(form, outline, { dissolve, onProgress: showShare }));
    } finally {
      await closeThreads();
    }
    return {
      data: { output, clips: files.length },
      lines: [`${output}: ${files.length} clip${files.length === 1 ? '' : 's'}`],
    };
  },
});

/** inkavo report: a record of files and their grade. */
export const report = documents('report', 'OUT.html|.pdf|.json');
/** inkavo timeline: files in order as a timeline. */
export const timeline = documents('timeline', 'OUT.otio|.edl');
