import { z } from 'zod';
import { LONGEST_DISSOLVE } from './film';
import { idSchema } from './outing';

/** Documents that can be generated from an outing's clips. */
export const DOCUMENTS = [
  'report.html',
  'report.pdf',
  'report.json',
  'sheet.pdf',
  'timeline.otio',
  'timeline.edl',
] as const;
export type DocumentForm = (typeof DOCUMENTS)[number];

/** Title and file name suffix of each. */
export const DOCUMENT_INFO: Record<DocumentForm, { title: string; use: string; suffix: string; extension: string }> = {
  'report.html': { title: 'Report, as a page', use: 'opens in any browser', suffix: ' report', extension: 'html' },
  'report.pdf': { title: 'Report, as a PDF', use: 'to print, to send', suffix: ' report', extension: 'pdf' },
  'report.json': { title: 'Report, as data', use: 'JSON, for programs', suffix: ' report', extension: 'json' },
  'sheet.pdf': { title: 'Contact sheet', use: 'before and after, a PDF', suffix: ' contact sheet', extension: 'pdf' },
  'timeline.otio': { title: 'OpenTimelineIO', use: 'cuts, speed, markers, CDL', suffix: '', extension: 'otio' },
  'timeline.edl': { title: 'CMX 3600 list', use: 'for older programs, with CDL', suffix: '', extension: 'edl' },
};

export const documentRequest = z.object({
  outingId: idSchema,
  /** In order; omitted: all clips of the outing. */
  clipIds: z.array(idSchema).min(1).max(500).optional(),
  form: z.enum(DOCUMENTS),
  /** Dissolves in seconds; for timelines. */
  dissolve: z.number().min(0).max(LONGEST_DISSOLVE).default(0),
});
