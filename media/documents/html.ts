import type { Report, ReportClip } from './report';
import { holdText, recordedText, stepNotes, stepNumbers, stretchText } from './words';

const ENTITIES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };
const esc = (text: string): string => text.replace(/[&<>"']/g, (c) => ENTITIES[c]);
const picture = (jpeg: Buffer, what: string): string =>
  `<figure><img src="data:image/jpeg;base64,${jpeg.toString('base64')}" alt="${esc(what)}"><figcaption>${esc(what)}</figcaption></figure>`;
const list = (items: readonly string[]): string => `<ul>${items.map((i) => `<li>${esc(i)}</li>`).join('')}</ul>`;
const row = (name: string, value: string): string => `<tr><th scope="row">${esc(name)}</th><td>${esc(value)}</td></tr>`;

const STYLE = `
:root{color-scheme:light;--ink:#161b16;--quiet:#566056;--line:#cdd3c9}
*{box-sizing:border-box}body{margin:0 auto;max-width:60rem;padding:1.5rem;color:var(--ink);background:#fff;font:16px/1.5 system-ui,sans-serif}
h1{font-size:1.6rem;margin:0}h2{font-size:1.2rem;margin:0 0 .5rem}h3{font-size:1rem;margin:1rem 0 .25rem}
header{border-bottom:3px solid var(--ink);padding-bottom:.75rem;margin-bottom:1.5rem}
.quiet,figcaption,th{color:var(--quiet)}article{border-top:1px solid var(--line);padding:1.25rem 0;break-inside:avoid}
.pair{display:grid;grid-template-columns:repeat(auto-fit,minmax(15rem,1fr));gap:.75rem}
figure{margin:0}img{width:100%;display:block;border-radius:3px}
table{border-collapse:collapse;width:100%}th,td{text-align:left;vertical-align:top;padding:.2rem .75rem .2rem 0;font-weight:400}
td.num{font-variant-numeric:tabular-nums}ul{margin:.25rem 0;padding-left:1.2rem}.hash{overflow-wrap:anywhere;font:12px/1.4 ui-monospace,monospace}
`;

function article(clip: ReportClip): string {
  const steps = clip.steps
    .map(
      (s) =>
        `<tr><td>${esc(s.title)}</td><td class="quiet">${esc(stepNotes(s))}</td><td class="num">${esc(stepNumbers(s))}</td></tr>`,
    )
    .join('');
  const { frame, before, after } = clip.pictures;
  return `<article><h2>${esc(clip.name)}</h2>
<div class="pair">${picture(before, `Before, frame ${frame}`)}${picture(after, `After, frame ${frame}`)}</div>
<table>${row('Camera', clip.camera)}${row('File', clip.file)}${clip.recordedAt ? row('Recorded', recordedText(clip.recordedAt)) : ''}${row('Delivered', stretchText(clip))}${row('Profile', clip.profile ?? 'none converted')}</table>
<h3>Steps</h3>${steps ? `<table>${steps}</table>` : '<p class="quiet">None: as recorded.</p>'}
<div class="pair"><div><h3>Readings before</h3>${list(clip.readings.before)}</div><div><h3>Readings after</h3>${list(clip.readings.after)}</div></div>
<h3>Hold check</h3>${list(holdText(clip))}
<p class="hash quiet">SHA-256 of the original: ${clip.sha256}</p></article>`;
}

/** A report as a self-contained page: pictures and style are embedded. */
export function reportHtml(report: Report): string {
  const { outing, clips, made, version } = report;
  const where = [outing.date, outing.place].filter(Boolean).join(' · ');
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; img-src data:; style-src 'unsafe-inline'">
<title>${esc(outing.name)}: report</title><style>${STYLE}</style></head>
<body><header><h1>${esc(outing.name)}</h1><p class="quiet">${esc(where)} · ${clips.length} clip${clips.length === 1 ? '' : 's'}</p></header>
${clips.map(article).join('\n')}
<footer class="quiet">Made ${esc(recordedText(made))} with Inkavo ${esc(version)}.</footer></body></html>
`;
}
