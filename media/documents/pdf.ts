import { join } from 'node:path';
import PDFDocument from 'pdfkit';
import { repositoryRoot } from '../root';
import type { Report, ReportClip } from './report';
import { holdText, recordedText, stepNotes, stepNumbers, stretchText } from './words';

/** The interface's own fonts, which cover most names. */
const FONTS = 'node_modules/@expo-google-fonts/atkinson-hyperlegible-next';
const [PLAIN, BOLD] = [
  '400Regular/AtkinsonHyperlegibleNext_400Regular.ttf',
  '700Bold/AtkinsonHyperlegibleNext_700Bold.ttf',
];

const MARGIN = 42;
const [INK, QUIET, LINE] = ['#161b16', '#566056', '#cdd3c9'];

type Doc = InstanceType<typeof PDFDocument>;

function newDocument(title: string, layout: 'portrait' | 'landscape'): Doc {
  const doc = new PDFDocument({ size: 'A4', layout, margin: MARGIN, bufferPages: true, info: { Title: title } });
  const root = repositoryRoot();
  doc.registerFont('plain', join(root, FONTS, PLAIN));
  doc.registerFont('bold', join(root, FONTS, BOLD));
  doc.font('plain').fillColor(INK);
  return doc;
}

const inner = (doc: Doc): number => doc.page.width - 2 * MARGIN;
/** Starts a new page if fewer than this many points are left. */
function needs(doc: Doc, height: number): void {
  if (doc.y + height > doc.page.height - MARGIN) doc.addPage();
}

/** The document as bytes, its pages numbered. */
async function finish(doc: Doc, footer: string): Promise<Buffer> {
  const { start, count } = doc.bufferedPageRange();
  for (let i = start; i < start + count; i += 1) {
    doc.switchToPage(i);
    // Below the margin, where text would start a new page.
    doc.page.margins.bottom = 0;
    doc
      .font('plain')
      .fontSize(8)
      .fillColor(QUIET)
      .text(`${footer} · ${i + 1} of ${count}`, MARGIN, doc.page.height - MARGIN + 12, {
        width: inner(doc),
        lineBreak: false,
      });
  }
  const parts: Buffer[] = [];
  doc.on('data', (part: Buffer) => parts.push(part));
  const ended = new Promise<void>((resolve, reject) => doc.on('end', resolve).on('error', reject));
  doc.end();
  await ended;
  return Buffer.concat(parts);
}

function heading(doc: Doc, report: Report): void {
  const { name, date, place } = report.outing;
  doc.font('bold').fontSize(18).text(name);
  const many = `${report.clips.length} clip${report.clips.length === 1 ? '' : 's'}`;
  doc.font('plain').fontSize(10).fillColor(QUIET).text([date, place, many].filter(Boolean).join(' · '));
  doc.moveDown(0.5).fillColor(INK);
}

/** Two pictures side by side, with captions. */
function pair(doc: Doc, { before, after }: ReportClip['pictures'], width: number, x: number, aspect: number): void {
  const each = (width - 8) / 2;
  const height = Math.min(each * aspect, 220);
  const y = doc.y;
  for (const [jpeg, left, word] of [
    [before, x, 'before'],
    [after, x + each + 8, 'after'],
  ] as const) {
    doc.image(jpeg, left, y, { fit: [each, height], align: 'center' });
    doc
      .fontSize(8)
      .fillColor(QUIET)
      .text(word, left, y + height + 2, { width: each, lineBreak: false });
  }
  doc.fillColor(INK);
  doc.x = x;
  doc.y = y + height + 14;
}

/** Height over width of a JPEG, from its frame header (ITU-T T.81, B.2.2). */
export function aspectOf(jpeg: Buffer): number {
  for (let i = 2; i + 9 < jpeg.length;) {
    const marker = jpeg[i + 1];
    const isFrame = marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker);
    if (isFrame) return jpeg.readUInt16BE(i + 5) / jpeg.readUInt16BE(i + 7);
    i += 2 + jpeg.readUInt16BE(i + 2);
  }
  return 9 / 16;
}

function line(doc: Doc, name: string, value: string): void {
  needs(doc, 14);
  const y = doc.y;
  doc.fontSize(9).fillColor(QUIET).text(name, MARGIN, y, { width: 90 });
  doc.fillColor(INK).text(value, MARGIN + 96, y, { width: inner(doc) - 96 });
  doc.x = MARGIN;
}

function part(doc: Doc, title: string, lines: readonly string[]): void {
  needs(doc, 40);
  doc.moveDown(0.4).font('bold').fontSize(9).text(title).font('plain');
  for (const text of lines) {
    needs(doc, 14);
    doc.fontSize(9).text(text, MARGIN, doc.y, { width: inner(doc) });
  }
}

function clipPages(doc: Doc, clip: ReportClip): void {
  needs(doc, 320);
  doc
    .moveTo(MARGIN, doc.y)
    .lineTo(doc.page.width - MARGIN, doc.y)
    .strokeColor(LINE)
    .stroke();
  doc.moveDown(0.5).font('bold').fontSize(13).fillColor(INK).text(clip.name, MARGIN).font('plain');
  doc.moveDown(0.2);
  pair(doc, clip.pictures, inner(doc), MARGIN, aspectOf(clip.pictures.before));
  line(doc, 'Camera', clip.camera);
  line(doc, 'File', clip.file);
  if (clip.recordedAt) line(doc, 'Recorded', recordedText(clip.recordedAt));
  line(doc, 'Delivered', stretchText(clip));
  line(doc, 'Profile', clip.profile ?? 'none converted');
  line(doc, 'SHA-256', clip.sha256);
  const steps = clip.steps.map((s) => {
    const notes = stepNotes(s);
    return `${s.title}${notes ? ` (${notes})` : ''}: ${stepNumbers(s)}`;
  });
  part(doc, 'Steps', steps.length ? steps : ['None: as recorded.']);
  part(doc, 'Readings before', clip.readings.before);
  part(doc, 'Readings after', clip.readings.after);
  part(doc, 'Hold check', holdText(clip));
  doc.moveDown(1);
}

/** A report as a PDF. */
export async function reportPdf(report: Report): Promise<Buffer> {
  const doc = newDocument(`${report.outing.name}: report`, 'portrait');
  heading(doc, report);
  report.clips.forEach((clip) => clipPages(doc, clip));
  return finish(doc, `Made ${recordedText(report.made)} with Inkavo ${report.version}`);
}

/** Pairs of pictures across and down a page. */
const GRID = { columns: 2, rows: 3 };

/** Every clip before and after, several per page. */
export async function contactSheetPdf(
  report: Pick<Report, 'outing' | 'made' | 'version'> & { clips: Pick<ReportClip, 'name' | 'camera' | 'pictures'>[] },
): Promise<Buffer> {
  const doc = newDocument(`${report.outing.name}: contact sheet`, 'landscape');
  heading(doc, report as Report);
  const top = doc.y;
  const [width, height] = [inner(doc) / GRID.columns, (doc.page.height - MARGIN - top) / GRID.rows];
  report.clips.forEach((clip, i) => {
    const place = i % (GRID.columns * GRID.rows);
    if (i > 0 && place === 0) doc.addPage();
    const x = MARGIN + (place % GRID.columns) * width;
    doc.y = top + Math.floor(place / GRID.columns) * height;
    const most = (height - 34) / ((width - 24) / 2);
    pair(doc, clip.pictures, width - 16, x, Math.min(aspectOf(clip.pictures.before), most));
    doc
      .font('bold')
      .fontSize(9)
      .text(clip.name, x, doc.y - 13, { width: width - 16, align: 'right', lineBreak: false, ellipsis: true });
    doc.font('plain');
  });
  return finish(doc, `Made ${recordedText(report.made)} with Inkavo ${report.version}`);
}
