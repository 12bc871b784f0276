import { kernels, levelDb, mixed, noise, RATE_HZ, sine, voice } from '../testing/signals.js';
import type { SpanSeconds } from '../span-seconds.js';
import type { Finding, FindingKind } from './findings.js';
import { findingsFor } from './findings-for.js';
import { Surveyor } from './surveyor.js';

const SECONDS = 24;
function survey(...channels: readonly Float32Array[]): readonly Finding[] {
  const surveyor = new Surveyor(kernels, RATE_HZ, channels.length);
  for (let from = 0; from < channels[0]!.length; from += 4096)
    surveyor.process(
      channels.map((x) => x.subarray(from, from + 4096)),
      Math.min(4096, channels[0]!.length - from),
    );
  return surveyor.finish().findings;
}
const all = <K extends FindingKind>(findings: readonly Finding[], kind: K) =>
  findings.filter((finding): finding is Finding & { kind: K } => finding.kind === kind);

/** Talk in its turns only, with soft edges: [from, to) in seconds. */
function turns(sound: Float32Array, spans: readonly (readonly [number, number])[]): Float32Array {
  return sound.map((x, n) => {
    const at = n / RATE_HZ;
    const inside = spans.find(([from, to]) => at >= from && at < to);
    return inside ? x * Math.min(1, (at - inside[0]) / 0.02, (inside[1] - at) / 0.02) : 0;
  });
}
const talkOfFirst = turns(voice(SECONDS, 110, 3), [
  [1.5, 7],
  [13, 18],
]);
const talkOfSecond = turns(voice(SECONDS, 205, 9), [
  [8, 12.5],
  [19, 23],
]);
// Two people, two microphones; each with a noise of its own, and some of the other person.
const left = mixed(
  mixed(talkOfFirst, noise(-62, SECONDS, 5)),
  talkOfSecond.map((x) => x * 0.02),
);
const right = mixed(
  mixed(
    mixed(talkOfSecond, noise(-52, SECONDS, 6)),
    talkOfFirst.map((x) => x * 0.02),
  ),
  sine(50, -48, SECONDS),
);

describe.each([
  [-34, 0.02],
  [-20, 0.1],
  [-16, 0.158],
])('bleed of %d dB', (db, share) => {
  test('is told on the microphone that it comes into, against the own one', () => {
    const one = mixed(
      mixed(talkOfFirst, noise(-70, SECONDS, 5)),
      talkOfSecond.map((x) => x * share),
    );
    const other = mixed(talkOfSecond, noise(-68, SECONDS, 6));
    const found = all(survey(one, other), 'bleed');
    expect(found.map(({ channel, from }) => [channel, from])).toEqual([[1, 2]]);
    expect(Math.abs(found[0]!.db - db)).toBeLessThan(1.5);
  });
});

describe('an interview on two channels', () => {
  const findings = survey(left, right);
  const quiet = (spans: readonly SpanSeconds[], talk: Float32Array): boolean =>
    spans.every(
      ({ startSeconds, endSeconds }) => levelDb(talk, Math.round(startSeconds * RATE_HZ), Math.round(endSeconds * RATE_HZ)) < -60,
    );

  test('noise stands alone, and nobody talks, only where neither does', () => {
    const [passages] = all(findingsFor(findings, [0, 1]), 'noise-passages');
    expect(passages!.spans.length).toBeGreaterThan(0);
    expect(quiet(passages!.spans, talkOfFirst)).toBe(true);
    expect(quiet(passages!.spans, talkOfSecond)).toBe(true);
    const [pauses] = all(findingsFor(findings, [0, 1]), 'pauses');
    const turnsOfSecond = [
      [8.5, 12],
      [19.5, 22.5],
    ] as const;
    for (const [from, to] of turnsOfSecond)
      for (const { startSeconds, endSeconds } of pauses!.spans)
        expect(Math.min(endSeconds, to) - Math.max(startSeconds, from)).toBeLessThan(0.5);
    // Not even for one track may the other's talk be learnt as noise.
    for (const channel of [0, 1]) {
      const [own] = all(findingsFor(findings, [channel]), 'noise-passages');
      expect(quiet(own!.spans, talkOfFirst) && quiet(own!.spans, talkOfSecond)).toBe(true);
    }
  });

  test('each finding says which channel has it', () => {
    expect(all(findings, 'hum').map(({ channel, baseHz }) => [channel, Math.round(baseHz)])).toEqual([[2, 50]]);
    expect(all(findings, 'hum')[0]!.certainty).toBeGreaterThan(0.9);
    const floors = all(findings, 'noise-floor');
    expect(floors.map(({ channel }) => channel)).toEqual([1, 2]);
    expect(floors[0]!.dbfs).toBeCloseTo(-62, 0);
    expect(all(findings, 'speech-level').map(({ channel }) => channel)).toEqual([1, 2]);
  });

  test('after a split a track has what is its own channel’s: floor, hum, pauses', () => {
    const [first, second] = [findingsFor(findings, [0]), findingsFor(findings, [1])];
    expect([all(first, 'hum').length, all(second, 'hum').length]).toEqual([0, 1]);
    expect(all(first, 'noise-floor').map(({ channel }) => channel)).toEqual([1]);
    // The first is silent while the second talks: a pause of hers, none of his.
    const pauseAt = (list: readonly Finding[], second: number): boolean =>
      all(list, 'pauses')[0]!.spans.some(({ startSeconds, endSeconds }) => startSeconds < second && endSeconds > second + 0.3);
    expect([pauseAt(first, 10), pauseAt(second, 15)]).toEqual([true, true]);
    expect(all(findings, 'pauses').map(({ channel }) => channel)).toEqual([undefined, 1, 2]);
    expect(all(first, 'channel')).toEqual([]);
  });

  test('one treatment does for a track of both: the worse floor decides', () => {
    const depth = (channels: number[]): unknown[] =>
      all(findingsFor(findings, channels), 'noise-floor').map(({ suggestion }) => suggestion?.['reductionDb'] ?? null);
    const [both, of1, of2] = [depth([0, 1]), depth([0]), depth([1])];
    expect(both).toEqual([of2[0], of2[0]]);
    expect(of1[0]).not.toEqual(of2[0]);
  });
});

test('one scene on two microphones is told once', () => {
  const talk = voice(SECONDS, 150, 4);
  const findings = survey(
    mixed(mixed(talk, noise(-60, SECONDS, 5)), sine(60, -50, SECONDS)),
    mixed(
      mixed(
        talk.map((x) => 0.8 * x),
        noise(-60, SECONDS, 6),
      ),
      sine(60, -50, SECONDS),
    ),
  );
  for (const { kind, channel } of findings) expect([kind, channel]).toEqual([kind, undefined]);
  for (const kind of ['hum', 'noise-floor', 'pauses', 'speech-level'] as const) expect(all(findings, kind)).toHaveLength(1);
});

test('harmonics belong to one base, a voice among them is no tone', () => {
  // A woman's voice whose partials lean on the lines; lines of 60.13 Hz, harmonics 2, 3 and 5.
  let heard = mixed(voice(SECONDS, 212, 8), noise(-75, SECONDS, 2));
  [1, 2, 3, 5].forEach((harmonic, i) => (heard = mixed(heard, sine(60.13 * harmonic, -50 - 4 * i + 3, SECONDS))));
  const hums = all(survey(heard), 'hum');
  expect(hums).toHaveLength(1);
  expect(Math.abs(hums[0]!.baseHz - 60.13)).toBeLessThan(0.02);
  expect(hums[0]!.harmonics.map(({ hz }) => Math.round(hz / 60.13))).toEqual(expect.arrayContaining([1, 2, 3, 5]));
  for (const { hz } of hums[0]!.harmonics) expect(Math.abs(hz - 60.13 * Math.round(hz / 60.13))).toBeLessThan(0.15);
});

test('a voice that holds its note is no tone', () => {
  // The same note through all of the talk; in the gaps nothing.
  const talk = turns(voice(SECONDS, 180, 12), [
    [0.5, 11],
    [12, 23.5],
  ]);
  let loud = 0;
  const held = mixed(
    talk.map((x, n) => {
      loud += 0.0005 * ((Math.abs(x) > 0.01 ? 1 : 0) - loud);
      return x + 0.05 * loud * Math.sin((2 * Math.PI * 180 * n) / RATE_HZ);
    }),
    noise(-70, SECONDS, 3),
  );
  expect(all(survey(held), 'hum').filter(({ source }) => source === 'stray')).toEqual([]);
});
