import { parseChain, SpeechCurve } from '@euphonos/dsp';
import { kernels, noise, RATE_HZ, silence, joined } from '../../../dsp/src/testing/signals.js';
import { Levels } from '../arrangement/levels.js';
import { applyEdit } from '../document/edits.js';
import { record, startHistory, undo } from '../document/history.js';
import { codeOf, fresh, of } from '../testing/documents.js';
import { pointsOf, traceGain, type GainTrace } from './gain-trace.js';

const talk = [
  { startSeconds: 1, endSeconds: 2, lufs: -20, state: 'treat' },
  { startSeconds: 4, endSeconds: 5, lufs: -20, state: 'treat' },
];
const lowered = { kind: 'under-speech', id: 'u', depthDb: 12, attackMs: 200, aheadMs: 100, holdMs: 300, releaseMs: 500, talk };
const context = { sampleRateHz: RATE_HZ, channels: 1, kernels };

function traced(treatments: readonly object[], sound: Float32Array): GainTrace {
  const trace = traceGain(context, parseChain({ treatments }), 'u')!;
  for (let at = 0; at < sound.length; at += 10_000) trace.push([sound.subarray(at, at + 10_000)], Math.min(10_000, sound.length - at));
  return trace.finish();
}

test('the gain of one treatment over time, behind whatever stands before it', () => {
  const { db, stepFrames } = traced([{ kind: 'high-pass', id: 'h' }, lowered], noise(-20, 7, 3));
  const curve = new SpeechCurve(talk, RATE_HZ, { aheadFrames: 4800, attackFrames: 9600, holdFrames: 14_400, releaseFrames: 24_000 });
  // Within a step the gain moves: by no more than the way down is steep.
  db.forEach((gainDb, i) => expect(Math.abs(gainDb + 12 * curve.at((i + 0.5) * stepFrames))).toBeLessThan(0.5));
  expect(traceGain(context, parseChain({ treatments: [{ ...lowered, bypassed: true }] }), 'u')).toBeNull();
});

test('few points follow it to within the tolerance; silence has none of its own', () => {
  const trace = traced([lowered], joined(noise(-20, 2.5, 3), silence(1), noise(-20, 3.5, 4)));
  const points = pointsOf(trace, 0.3);
  expect(points.length).toBeLessThan(60);
  trace.db.forEach((gainDb, i) => {
    if (Number.isNaN(gainDb)) return;
    const frame = (i + 0.5) * trace.stepFrames;
    const after = points.findIndex((point) => point.frame >= frame);
    const [a, b] = [points[Math.max(0, after - 1)]!, points[after]!];
    const line = a.frame === b.frame ? b.gainDb : a.gainDb + ((b.gainDb - a.gainDb) * (frame - a.frame)) / (b.frame - a.frame);
    expect(Math.abs(line - gainDb)).toBeLessThanOrEqual(0.31);
  });
});

test('as a gain line: of every clip where it stands, over what its line was; the treatment goes; one step', () => {
  let history = startHistory(fresh());
  const { trackId } = of;
  history = record(history, { type: 'add-treatment', trackId, kind: 'levelling', treatmentId: 'v' });
  history = record(history, { type: 'split-clips', trackId, frames: [20_000] });
  const second = history.present.tracks[0]!.clips[1]!.id;
  history = record(history, { type: 'shape-clip', trackId, clipId: second, shape: { line: [{ frame: 20_000, gainDb: -2 }] } });
  const before = history.present;
  const points = [
    { frame: 0, gainDb: 0 },
    { frame: 10_000, gainDb: -6 },
    { frame: 30_000, gainDb: 4 },
  ];
  history = record(history, { type: 'gain-to-line', trackId, treatmentId: 'v', title: 'Levelling', points });
  const track = history.present.tracks[0]!;
  expect(track.chain.treatments.map(({ id }) => id)).not.toContain('v');
  const levels = Levels.of(track.clips, 48_000, RATE_HZ);
  const db = (frame: number): number => 20 * Math.log10(levels.at(frame));
  expect(db(5000)).toBeCloseTo(-3, 2);
  expect(db(25_000)).toBeCloseTo(1.5 - 2, 2);
  expect(history.past.at(-1)!.label).toBe('Levelling as a gain line');
  expect(undo(history).present).toEqual(before);
  const edit = { type: 'gain-to-line', trackId, treatmentId: 'v', title: '', points: [] } as const;
  expect(codeOf(() => applyEdit(history.present, edit))).toBe('treatment-missing');
  const many = Array.from({ length: 2100 }, (_, i) => ({ frame: 9 * i, gainDb: i % 2 }));
  expect(codeOf(() => applyEdit(before, { ...edit, points: many }))).toBe('line-too-long');
});
