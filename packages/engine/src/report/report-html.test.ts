import type { Report } from './report.js';
import { reportAsHtml } from './report-html.js';

// What somebody might call a recording, a track, a mark or a target.
const HOSTILE = `"><script>steal()</script><img src=x onerror='steal()'>&`;
const told = [{ title: HOSTILE, value: HOSTILE, sentence: HOSTILE }];
const report: Report = {
  format: 'euphonos-report',
  version: 1,
  title: HOSTILE,
  madeAt: '2026-11-29T12:00:00.000Z',
  fileName: HOSTILE,
  received: [{ fileName: HOSTILE, words: HOSTILE, figures: told, notes: [HOSTILE], found: told, picture: null }],
  done: [{ name: HOSTILE, edits: [HOSTILE], treatments: [{ title: HOSTILE, sentence: HOSTILE, settings: told }] }],
  level: [HOSTILE],
  target: { name: HOSTILE, file: HOSTILE },
  measured: [],
  passed: true,
  loudness: { before: [-30, -20], after: [-18, -16], stepSeconds: 0.1, band: [-17, -15] },
  picture: null,
  versions: [{ name: HOSTILE, keptAt: '2026-11-29T12:00:00.000Z', differences: [HOSTILE] }],
  terms: [{ term: HOSTILE, meaning: HOSTILE }],
};

test('no name becomes a part of the page, wherever it stands', () => {
  const html = reportAsHtml(report);
  expect(html).not.toMatch(/<script|<img|<[^>]*onerror/);
  // Each of them is there, as it was written.
  const shown = html.split('&quot;&gt;&lt;script&gt;steal()&lt;/script&gt;&lt;img src=x onerror=&#39;steal()&#39;&gt;&amp;').length - 1;
  expect(shown).toBe(25);
  expect(html).not.toContain('steal()</script');
});
