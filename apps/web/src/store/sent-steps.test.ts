import { createDocument, record, startHistory, undo, type Edit, type History } from '@euphonos/engine';
import { stepsSent, stepsToSend } from './sent-steps.js';

const start = startHistory(createDocument({ id: 'r', name: 'n', lengthFrames: 480_000, sampleRateHz: 48_000, channels: 1 }));
const cutoff = (value: number): Edit => ({ type: 'set-parameter', trackId: 'track-1', treatmentId: 't1', name: 'cutoffHz', value });
const done = (history: History, ...values: number[]): History => values.reduce((now, value) => record(now, cutoff(value)), history);

test('a save brings everything once, then what is new; after an undo and another step only what differs; for another session everything', () => {
  const two = done(start, 90, 100);
  expect(stepsToSend('s', two)).toMatchObject({ from: 0, start: start.present, past: [[cutoff(90)], [cutoff(100)]], future: [] });
  stepsSent('s', two);
  const four = done(two, 110, 120);
  expect(stepsToSend('s', four)).toMatchObject({ from: 2, start: null, past: [[cutoff(110)], [cutoff(120)]] });
  stepsSent('s', four);
  expect(stepsToSend('s', undo(four))).toMatchObject({ from: 3, past: [], future: [[cutoff(120)]] });
  expect(stepsToSend('s', done(undo(undo(four)), 130))).toMatchObject({ from: 2, past: [[cutoff(130)]], future: [] });
  expect(stepsToSend('other', four)).toMatchObject({ from: 0 });
  // The server lost them, or never had them.
  stepsSent('s', null);
  expect(stepsToSend('s', four).past).toHaveLength(4);
});
