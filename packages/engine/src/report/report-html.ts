import { formatNumber, setMinus, unitDigits } from '../words/figures.js';
import type { Done, Received, Report, Told } from './report.js';

const escaped = (text: string): string =>
  setMinus(text).replace(/[&<>"']/g, (sign) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' })[sign]!);

const STYLE = `
  :root { --ink: #2b2a28; --soft: #6d675c; --line: #d8cfbd; --result: #0e5a5a; --removed: #a8431f; --paper: #fbf8f1; }
  @page { size: A4; margin: 16mm 15mm; }
  body { margin: 0 auto; max-width: 190mm; padding: 8mm; color: var(--ink); background: var(--paper); font: 10.5pt/1.45 "Source Sans 3", "Noto Sans", "DejaVu Sans", sans-serif; }
  @media print { body { padding: 0; background: none; } }
  h1, h2 { font-family: "Source Serif 4", Georgia, "DejaVu Serif", serif; font-weight: 600; margin: 0; }
  h1 { font-size: 20pt; } h2 { font-size: 13pt; margin: 6mm 0 2mm; border-top: 1px solid var(--ink); padding-top: 2mm; }
  h3 { font-size: 10.5pt; margin: 3mm 0 1mm; }
  p { margin: 0 0 2mm; } .soft { color: var(--soft); } small { font-size: 8.5pt; color: var(--soft); }
  table { border-collapse: collapse; width: 100%; } td, th { text-align: left; vertical-align: top; padding: 1mm 3mm 1mm 0; border-top: 1px solid var(--line); font-weight: 400; }
  th { color: var(--soft); font-size: 8.5pt; border: 0; } .right { text-align: right; white-space: nowrap; } .after { font-weight: 600; }
  .good { color: var(--result); } .bad { color: var(--removed); font-weight: 600; }
  figure { margin: 2mm 0; break-inside: avoid; } img, svg { width: 100%; display: block; } figcaption { font-size: 8.5pt; color: var(--soft); }
  section, tr { break-inside: avoid; } ul { margin: 0 0 2mm; padding-left: 5mm; }
`;

const rows = (told: readonly Told[]): string =>
  told
    .map(
      ({ title, value, sentence }) =>
        `<tr><td>${escaped(title)}</td><td class="right">${escaped(value)}</td><td><small>${escaped(sentence)}</small></td></tr>`,
    )
    .join('');
const picture = (source: string | null, caption: string): string =>
  source === null ? '' : `<figure><img alt="${escaped(caption)}" src="${source}"><figcaption>${escaped(caption)}</figcaption></figure>`;
const bullets = (lines: readonly string[]): string =>
  lines.length === 0 ? '' : `<ul>${lines.map((line) => `<li>${escaped(line)}</li>`).join('')}</ul>`;

const received = ({ fileName, words, figures, notes, found, picture: source }: Received): string => `
  <section><h3>${escaped(fileName)} <small>${escaped(words)}</small></h3>
  <p>${figures.map(({ title, value }) => `${escaped(title)} <b>${escaped(value)}</b>`).join(' · ')}</p>
  ${bullets(notes)}
  ${picture(source, 'As it came: time from left to right, low to high from bottom to top, the darker the louder')}
  ${found.length === 0 ? '<p>Nothing was found that wants mending.</p>' : `<table>${rows(found)}</table>`}</section>`;

const done = ({ name, edits, treatments }: Done): string => `
  <h3>${escaped(name)}</h3>${bullets(edits)}
  ${edits.length === 0 && treatments.length === 0 ? '<p>It was left as it came.</p>' : ''}
  ${treatments.map(({ title, sentence, settings }) => `<section><p><b>${escaped(title)}</b> <small>${escaped(sentence)}</small></p><table>${rows(settings)}</table></section>`).join('')}`;

/** Short-term loudness over time: before, after, and the band that is asked for. */
function loudness(curve: NonNullable<Report['loudness']>): string {
  const [width, height, low, high] = [760, 150, -50, -5] as const;
  const y = (lufs: number): number => height - ((Math.max(low, Math.min(high, lufs)) - low) / (high - low)) * height;
  const path = (values: readonly number[]): string =>
    values
      .map((value, i) => `${i === 0 ? 'M' : 'L'}${((i / Math.max(1, values.length - 1)) * width).toFixed(1)} ${y(value).toFixed(1)}`)
      .join('');
  const band = curve.band
    ? `<rect x="0" width="${width}" y="${y(curve.band[1])}" height="${y(curve.band[0]) - y(curve.band[1])}" fill="#e6d49a" opacity="0.6"/>`
    : '';
  const lines = [-40, -30, -20, -10].map(
    (lufs) =>
      `<path d="M0 ${y(lufs)}H${width}" stroke="#d8cfbd"/><text x="2" y="${y(lufs) - 2}" font-size="9" fill="#6d675c">${formatNumber(lufs, 0)}</text>`,
  );
  return `<figure><svg viewBox="0 0 ${width} ${height}" role="img" aria-label="Loudness over time">${band}${lines.join('')}
    <path d="${path(curve.before)}" fill="none" stroke="#6d675c"/><path d="${path(curve.after)}" fill="none" stroke="#0e5a5a" stroke-width="1.6"/></svg>
    <figcaption>Loudness over time, LUFS: grey as it came, green as it is handed over, ochre what is asked.</figcaption></figure>`;
}

const figure = (value: number | null, unit: string): string => (value === null ? '–' : formatNumber(value, unitDigits(unit)));

/** A report as one page that needs nothing else: pictures and styles are in it, and no script. */
export function reportAsHtml(report: Report): string {
  const { title, madeAt, fileName, target, measured, passed } = report;
  const day = new Date(madeAt).toISOString().slice(0, 10);
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escaped(title)}</title><style>${STYLE}</style></head><body>
<h1>${escaped(title)}</h1>
<p class="soft">${escaped(fileName)} · ${day} · <span class="${passed ? 'good' : 'bad'}">${passed ? 'everything that is asked is met' : 'not everything that is asked is met'}</span></p>
<h2>Received</h2>${report.received.map(received).join('')}
<h2>Done</h2>${report.done.map(done).join('')}${bullets(report.level)}
<h2>Measured</h2><p class="soft">Asked for: ${escaped(target.name)} · written as ${escaped(target.file)}. Measured of the finished file.</p>
<table><tr><th>What</th><th class="right">before</th><th class="right">after</th><th></th><th>asked</th><th></th></tr>
${measured.map(({ title: what, unit, before, after, asked, passed: good, mend }) => `<tr><td>${escaped(what)}${mend ? `<br><small>${escaped(mend.words)}</small>` : ''}</td><td class="right">${figure(before, unit)}</td><td class="right after">${figure(after, unit)}</td><td><small>${escaped(unit)}</small></td><td>${escaped(asked ?? '')}</td><td class="${good === false ? 'bad' : 'good'}">${good === null ? '' : good ? 'met' : 'missed'}</td></tr>`).join('')}</table>
${report.loudness ? loudness(report.loudness) : ''}
${picture(report.picture, 'As it is handed over')}
${report.versions.length === 0 ? '' : `<h2>Versions</h2>${report.versions.map(({ name, keptAt, differences }) => `<h3>${escaped(name)} <small>${escaped(keptAt.slice(0, 10))}</small></h3>${differences.length === 0 ? '<p>As it is now.</p>' : bullets(differences)}`).join('')}`}
${report.terms.length === 0 ? '' : `<h2>What the words mean</h2><table>${report.terms.map(({ term, meaning }) => `<tr><td>${escaped(term)}</td><td>${escaped(meaning)}</td></tr>`).join('')}</table>`}
</body></html>
`;
}
