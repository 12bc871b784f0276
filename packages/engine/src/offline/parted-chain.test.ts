import { treatmentKinds } from '@euphonos/dsp';
import { RATE_HZ } from '../../../dsp/src/testing/signals.js';
import { everything } from '../testing/everything.js';
import { differenceDb, expectJoined, made, room, through, twice } from '../testing/joined-parts.js';
import { chain } from '../testing/listening.js';
import { leadOf, PART_SECONDS, partedChain, partedTurn, partFramesAt, type Parting, type PartMemory } from './parted-chain.js';

const partFrames = partFramesAt(RATE_HZ, 8);

/** Spans over the joints of parts, and beside them. */
const spans = [
  { startSeconds: 2, endSeconds: 2.6 },
  { startSeconds: 7.2, endSeconds: 9.1 },
  { startSeconds: 15.9, endSeconds: 16.1 },
];
const treated = spans.map((span) => ({ ...span, state: 'treat' }));
const more: readonly [string, ...object[]][] = [
  ['clipping', { kind: 'clipping' }],
  ['clicks', { kind: 'clicks' }],
  [
    'spots',
    {
      kind: 'spots',
      spots: [
        { startSeconds: 7.6, endSeconds: 8.4, lowHz: 100, highHz: 3000, reductionDb: 20 },
        { startSeconds: 15.8, endSeconds: 16.3, lowHz: 200, highHz: 6000, way: 'replace' },
        { startSeconds: 15.9, endSeconds: 16.2, lowHz: 6000, highHz: 9000, way: 'noise' },
      ],
    },
  ],
  ['gate that listens to talk', { kind: 'gate', listens: 'talk', quiet: spans }],
  ['bleed', { kind: 'bleed', bleed: treated }],
  ['breaths', { kind: 'breaths', breaths: treated.map((span) => ({ ...span, certaintyPercent: 90 })) }],
  ['pauses', { kind: 'pauses', pauses: treated }],
  ['levelling', { kind: 'levelling' }],
  ['under speech', { kind: 'under-speech', talk: spans.map((span) => ({ ...span, lufs: -20, state: 'treat' })) }],
  ['compressor', { kind: 'compressor' }],
  ['limiter', { kind: 'limiter' }],
  ['all of a usual chain', ...['clicks', 'high-pass', 'noise-reduction', 'levelling', 'compressor'].map((kind) => ({ kind }))],
];

// The small network goes the way of the full one.
test.each([...everything, ...more].filter(([name]) => !name.endsWith('light')))('%s: parts joined are the whole', (_, ...stages) => {
  expectJoined(chain(...stages), partFrames, twice);
});

test('every treatment is among them', () => {
  const tried = new Set([...everything, ...more].flatMap(([, ...stages]) => stages.map((stage) => (stage as { kind: string }).kind)));
  expect(treatmentKinds.filter((kind) => !tried.has(kind))).toEqual([]);
});

test('the source beside it is turned in parts, too', () => {
  const spec = chain({ kind: 'hum-notch', drift: 'follow' }, { kind: 'high-pass' });
  const heard = (parting: Parting): Float32Array => {
    const turn = partedTurn(room, spec, parting);
    const out = new Float32Array(twice.length - turn.startFrame);
    turn.process([twice.subarray(turn.startFrame)], [out], out.length);
    return out.subarray(turn.rightFrom - turn.startFrame);
  };
  const memories: PartMemory[] = [];
  const whole = heard({ partFrames, onMemory: (part, memory) => (memories[part] = memory) });
  expect(differenceDb(heard({ partFrames, goOn: { part: 2, memory: memories[2]! } }), whole.subarray(2 * partFrames))).toBe(-240);
});

test('what is shorter than a part runs through one chain, and so does one whose lead is as long as a part', () => {
  const spec = chain({ kind: 'plosives' }, { kind: 'gate' });
  for (const frames of [partFramesAt(RATE_HZ), 2048]) {
    const { out, memories } = made(spec, { partFrames: frames });
    expect(differenceDb(out, through(spec))).toBe(-240);
    expect(memories.size).toBe(0);
  }
});

test('parts begin on the grid at every rate, and earlier where something else needs a lead', () => {
  for (const rateHz of [44_100, 48_000, 88_200, 96_000]) {
    expect(partFramesAt(rateHz) % 2048).toBe(0);
    expect(Math.abs(partFramesAt(rateHz) / rateHz - PART_SECONDS)).toBeLessThan(0.03);
  }
  const { frames, readAfter } = leadOf(
    [
      { latencyFrames: 960, remembers: true },
      { latencyFrames: 0, remembers: false },
    ],
    RATE_HZ,
  );
  // 1 s and 960 frames, then 0.3 s and 960, then 1 s: whole steps of 2048 frames.
  expect(readAfter).toEqual([2048 * 24]);
  expect(frames).toBe(2048 * (24 + 8 + 24));
  const { rightFrom } = partedChain(room, chain(), { partFrames, beforeFrames: 4096, goOn: { part: 1, memory: [] } });
  expect(rightFrom).toBe(partFrames - 4096);
});
