import { parseChain, takeNoiseProfile } from '@euphonos/dsp';
import { kernels, noise, RATE_HZ, voice } from '../../../dsp/src/testing/signals.js';
import { chainBeforeProfile, profilePassages } from './profile-passage.js';

const context = { sampleRateHz: RATE_HZ, channels: 1, kernels };
const room = noise(-50, 8, 5);
const passage = { startFrame: 4 * RATE_HZ, endFrame: 5 * RATE_HZ };
const cut = (from: number, to: number): Float32Array[] => [room.slice(from, to)];
const read = (from: number, to: number) => Promise.resolve(cut(from, to));
const profile = (spec: object, passages = [passage]) => profilePassages(context, parseChain(spec), passages, read);
const levelDb = (values: Float32Array, hz: number, frameSize: number): number => {
  const k = Math.round((hz * frameSize) / RATE_HZ);
  let sum = 0;
  for (let i = k - 5; i <= k + 5; i++) sum += values[i]!;
  return 10 * Math.log10(sum);
};

test('with nothing before it is the profile of the passage itself', async () => {
  const plain = takeNoiseProfile(kernels, cut(passage.startFrame, passage.endFrame), RATE_HZ);
  for (const treatments of [
    [{ kind: 'noise-reduction' }],
    [{ kind: 'high-pass', bypassed: true }, { kind: 'noise-reduction' }],
    [{ kind: 'gate' }],
  ])
    expect(await profile({ treatments })).toEqual(plain);
});

test('a band that is raised before comes in raised: 9 dB, as the bell says', async () => {
  const bands = [{ shape: 'bell', frequencyHz: 2000, gainDb: 9, q: 0.7 }];
  const plain = await profile({ treatments: [{ kind: 'noise-reduction' }] });
  const raised = await profile({ treatments: [{ kind: 'tone', bands }, { kind: 'noise-reduction' }] });
  const after = await profile({ treatments: [{ kind: 'noise-reduction' }, { kind: 'tone', bands }] });
  const rise = (hz: number): number =>
    levelDb(raised.channels[0]!.meanPower, hz, raised.frameSize) - levelDb(plain.channels[0]!.meanPower, hz, plain.frameSize);
  expect(rise(2000)).toBeCloseTo(9, 0);
  expect(after).toEqual(plain);
});

test('of a side that is heard on both, both have its profile, the frames aligned to the sample', async () => {
  const chain = parseChain({ treatments: [{ kind: 'channels', route: 'first', offset: 'kept' }, { kind: 'noise-reduction' }] });
  const both = [room, room.map((x) => x / 4)];
  const { channels } = await profilePassages({ ...context, channels: 2 }, chain, [passage], (from, to) =>
    Promise.resolve(both.map((samples) => samples.slice(from, to))),
  );
  expect(channels[1]).toEqual(channels[0]);
  expect(channels[0]).toEqual(takeNoiseProfile(kernels, cut(passage.startFrame, passage.endFrame), RATE_HZ).channels[0]);
});

test('the sound before and after lets the treatments settle; a recording that ends there is no error, one that ends before is', async () => {
  const chain = parseChain({ treatments: [{ kind: 'plosives' }, { kind: 'noise-reduction' }] });
  expect(chainBeforeProfile(chain).treatments.map(({ kind }) => kind)).toEqual(['plosives']);
  const talk = voice(2, 120);
  const reads: number[] = [];
  const reader = (from: number, to: number) => (reads.push(from), Promise.resolve([talk.slice(from, to)]));
  const { frameCount } = await profilePassages(context, chain, [{ startFrame: RATE_HZ, endFrame: 2 * RATE_HZ }], reader);
  expect(reads).toEqual([0]);
  expect(frameCount).toBe(takeNoiseProfile(kernels, [talk.slice(RATE_HZ)], RATE_HZ).frameCount);
  await expect(profilePassages(context, chain, [{ startFrame: RATE_HZ, endFrame: 3 * RATE_HZ }], reader)).rejects.toMatchObject({
    code: 'span-outside',
  });
});

test('several passages make one profile', async () => {
  const other = { startFrame: 6 * RATE_HZ, endFrame: 6.5 * RATE_HZ };
  const of = (spans: (typeof passage)[]) => profile({ treatments: [{ kind: 'noise-reduction' }] }, spans);
  const [first, second, both] = await Promise.all([of([passage]), of([other]), of([passage, other])]);
  expect(both.frameCount).toBe(first.frameCount + second.frameCount);
  const k = 300;
  const expected =
    (first.channels[0]!.meanPower[k]! * first.frameCount + second.channels[0]!.meanPower[k]! * second.frameCount) / both.frameCount;
  expect(both.channels[0]!.meanPower[k]! / expected).toBeCloseTo(1, 5);
});
