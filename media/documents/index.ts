import { writeEdl } from '@inkavo/core/formats/timeline/edl';
import { writeOtio } from '@inkavo/core/formats/timeline/otio';
import type { DocumentForm } from '@inkavo/core/model/document';
import { reportHtml } from './html';
import { cutListOf, type Outline } from './outline';
import { beforeAndAfter, makeReport, reportJson, version, type ReportClip } from './report';

interface Making {
  /** Dissolves in seconds; for timelines. */
  dissolve?: number;
  /** Called with the progress, 0–1. */
  onProgress?: (share: number) => void;
  signal?: AbortSignal;
}

/** Loaded on demand: the PDF library takes as long to load as the rest of a server. */
const pdf = () => import('./pdf');

/** Width in pixels of a contact sheet's pictures. */
const SHEET_WIDTH = 480;

async function contactSheet(outline: Outline, { onProgress, signal }: Making): Promise<Buffer> {
  const clips: Pick<ReportClip, 'name' | 'camera' | 'pictures'>[] = [];
  for (const [k, clip] of outline.clips.entries()) {
    const pictures = await beforeAndAfter(clip, SHEET_WIDTH, signal);
    clips.push({ name: clip.name, camera: clip.camera, pictures: { frame: clip.referenceFrame, ...pictures } });
    onProgress?.((k + 1) / outline.clips.length);
  }
  const { name, place, date } = outline;
  const { contactSheetPdf } = await pdf();
  return contactSheetPdf({ outing: { name, place, date }, made: new Date().toISOString(), version: version(), clips });
}

/** Generates a document about clips; returns the file's content. */
export async function documentOf(form: DocumentForm, outline: Outline, making: Making = {}): Promise<string | Buffer> {
  const cuts = () => cutListOf(outline, { ...making, dissolve: making.dissolve ?? 0 });
  switch (form) {
    case 'report.html':
      return reportHtml(await makeReport(outline, making));
    case 'report.pdf':
      return (await pdf()).reportPdf(await makeReport(outline, making));
    case 'report.json':
      return reportJson(await makeReport(outline, making));
    case 'sheet.pdf':
      return contactSheet(outline, making);
    case 'timeline.otio':
      return writeOtio(await cuts());
    case 'timeline.edl':
      return writeEdl(await cuts());
  }
}
