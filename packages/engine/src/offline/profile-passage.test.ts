import { parseChain, takeNoiseProfile } from '@euphonos/dsp';
import { kernels, noise, RATE_HZ, voice } from '../../../dsp/src/testing/signals.js';
import { chainBeforeProfile, framesToProfile, profilePassage } from './profile-passage.js';

const context = { sampleRateHz: RATE_HZ, channels: 1, kernels };
const room = noise(-50, 8, 5);
const passage = { startFrame: 4 * RATE_HZ, endFrame: 5 * RATE_HZ };
const cut = (from: number, to: number): Float32Array[] => [room.slice(from, to)];
const profile = (spec: object) => {
  const chain = parseChain(spec);
  const { startFrame, endFrame } = framesToProfile(chain, passage, RATE_HZ);
  return profilePassage(context, chain, cut(startFrame, endFrame), passage);
};
const levelDb = (values: Float32Array, hz: number, frameSize: number): number => {
  const k = Math.round((hz * frameSize) / RATE_HZ);
  let sum = 0;
  for (let i = k - 5; i <= k + 5; i++) sum += values[i]!;
  return 10 * Math.log10(sum);
};

test('with nothing before it is the profile of the passage itself', () => {
  const plain = takeNoiseProfile(kernels, cut(passage.startFrame, passage.endFrame), RATE_HZ);
  for (const treatments of [[{ kind: 'noise-reduction' }], [{ kind: 'high-pass', bypassed: true }, { kind: 'noise-reduction' }], [{ kind: 'gate' }]])
    expect(profile({ treatments })).toEqual(plain);
});

test('a band that is raised before comes in raised: 9 dB, as the bell says', () => {
  const bands = [{ shape: 'bell', frequencyHz: 2000, gainDb: 9, q: 0.7 }];
  const plain = profile({ treatments: [{ kind: 'noise-reduction' }] });
  const raised = profile({ treatments: [{ kind: 'tone', bands }, { kind: 'noise-reduction' }] });
  const after = profile({ treatments: [{ kind: 'noise-reduction' }, { kind: 'tone', bands }] });
  const rise = (hz: number): number => levelDb(raised.channels[0]!.meanPower, hz, raised.frameSize) - levelDb(plain.channels[0]!.meanPower, hz, plain.frameSize);
  expect(rise(2000)).toBeCloseTo(9, 0);
  expect(after).toEqual(plain);
});

test('of a side that is heard on both, both have its profile, the frames aligned to the sample', () => {
  const chain = parseChain({ treatments: [{ kind: 'channels', route: 'first', offset: 'kept' }, { kind: 'noise-reduction' }] });
  const { startFrame, endFrame } = framesToProfile(chain, passage, RATE_HZ);
  const both = [room, room.map((x) => x / 4)].map((samples) => samples.slice(startFrame, endFrame));
  const { channels } = profilePassage({ ...context, channels: 2 }, chain, both, passage);
  expect(channels[1]).toEqual(channels[0]);
  expect(channels[0]).toEqual(takeNoiseProfile(kernels, cut(passage.startFrame, passage.endFrame), RATE_HZ).channels[0]);
});

test('the sound before and after lets the treatments settle; a recording that ends is no error', () => {
  const chain = parseChain({ treatments: [{ kind: 'plosives' }, { kind: 'noise-reduction' }] });
  expect(chainBeforeProfile(chain).treatments.map(({ kind }) => kind)).toEqual(['plosives']);
  const talk = voice(2, 120);
  const end = { startFrame: RATE_HZ, endFrame: 2 * RATE_HZ };
  const reach = framesToProfile(chain, end, RATE_HZ);
  expect(reach.startFrame).toBe(0);
  const { frameCount } = profilePassage(context, chain, [talk.slice(reach.startFrame, reach.endFrame)], end);
  expect(frameCount).toBe(takeNoiseProfile(kernels, [talk.slice(RATE_HZ)], RATE_HZ).frameCount);
});
