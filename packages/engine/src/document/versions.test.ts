import type { SessionDocument } from './document.js';
import { applyEdit, requireTrack, type Edit } from './edits.js';
import { record, startHistory, undo } from './history.js';
import { parseDocument } from './parse.js';
import { codeOf, fresh } from '../testing/documents.js';

const cutoff = (value: number): Edit => ({ type: 'set-parameter', trackId: 'track-1', treatmentId: 't1', name: 'cutoffHz', value });
const keep = (id: string, name = id): Edit => ({ type: 'keep-version', id, name, keptAt: '2026-11-26T04:00:00.000Z' });
const cutoffOf = (document: SessionDocument) => requireTrack(document, 'track-1').chain.treatments[0]!['cutoffHz'];
const after = (...edits: Edit[]): SessionDocument => edits.reduce(applyEdit, fresh());

test('a version keeps chain and target; restoring it brings both back and keeps the versions; undo takes that back', () => {
  const before = after(cutoff(95), keep('v1', 'Soft'), cutoff(160), {
    type: 'set-target',
    target: { ...fresh().target, integratedLufs: -23 },
  });
  const history = record(startHistory(before), { type: 'restore-version', id: 'v1', name: 'Soft' });
  expect(cutoffOf(history.present)).toBe(95);
  expect(history.present.target).toEqual(fresh().target);
  expect(history.present.versions.map(({ name }) => name)).toEqual(['Soft']);
  expect(history.past[0]!.label).toBe('Restore version Soft');
  expect(undo(history).present).toEqual(before);
});

test('versions survive a save, are dropped one by one, and are named in any case', () => {
  const document = after(keep('v1', '  '), cutoff(120), keep('v2', 'Deep'));
  expect(parseDocument(JSON.parse(JSON.stringify(document)))).toEqual(document);
  expect(document.versions.map(({ name }) => name)).toEqual(['Version', 'Deep']);
  expect(applyEdit(document, { type: 'drop-version', id: 'v1', name: '' }).versions.map(({ id }) => id)).toEqual(['v2']);
});

test('there are twenty at most; one that is gone is told', () => {
  const many = after(...Array.from({ length: 20 }, (_, i) => keep(`v${i}`)));
  expect(codeOf(() => applyEdit(many, keep('one more')))).toBe('versions-many');
  expect(codeOf(() => applyEdit(many, { type: 'restore-version', id: 'gone', name: 'g' }))).toBe('version-unknown');
  expect(codeOf(() => parseDocument(JSON.parse(JSON.stringify({ ...many, versions: [...many.versions, many.versions[0]] }))))).toBe(
    'document-shape',
  );
});

test('a document of before has none', () => {
  const { versions: _, ...old } = fresh();
  expect(parseDocument(JSON.parse(JSON.stringify(old)))).toEqual(fresh());
});
