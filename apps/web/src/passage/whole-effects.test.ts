import { parseChain, takeNoiseProfile } from '@euphonos/dsp';
import { createDocument } from '@euphonos/engine';
import { kernels, mixed, noise, RATE_HZ, sine } from '../../../../packages/dsp/src/testing/signals.js';
import { soundOf } from '../audio/arranged.js';
import { oneRecording } from '../audio/testing/one-recording.js';
import type { RestTrack } from './rest-sound.js';
import { WholeEffects } from './whole-effects.js';
import type { WholeMix } from './mixed-sum.js';

// Two tracks with hum of opposite polarity: in the sum it is only there as long as one of them is lower.
const hum = sine(50, -20, 4);
const sounds = [mixed(hum, noise(-50, 4, 1)), hum.map((x) => -x)];
const LENGTH = hum.length;
const document = createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: RATE_HZ, channels: 1 });

beforeAll(() => {
  globalThis.fetch = jest.fn(async (url: string, init: RequestInit) => {
    const [, from, to] = /bytes=(\d+)-(\d+)/.exec((init.headers as Record<string, string>)['range']!)!;
    const sound = sounds[Number(url.split('/').pop())]!;
    return { ok: true, arrayBuffer: async () => sound.slice(Number(from) / 4, (Number(to) + 1) / 4).buffer } as Response;
  }) as unknown as typeof fetch;
});
const track = (channel: number): RestTrack => ({
  id: `t${channel}`,
  key: '1',
  source: { ...oneRecording(LENGTH, channel), sampleRateHz: RATE_HZ },
  sound: soundOf(document.tracks[0]!),
  chain: { treatments: [] },
  noise: null,
});
const chain = parseChain({ treatments: [{ kind: 'high-pass', id: 'w', cutoffHz: 200, slopeDbPerOctave: 48 }] });
const mix = (secondGain: number): WholeMix => ({
  tracks: [
    { track: track(0), gains: [1, 1] },
    { track: track(1), gains: [secondGain, secondGain] },
  ],
  channels: 2,
  sampleRateHz: RATE_HZ,
  chain,
  lengthFrames: LENGTH,
});
const measure = (secondGain: number) => new WholeEffects(kernels).measure(mix(secondGain), { startFrame: RATE_HZ, endFrame: LENGTH });

test('what the chain on the whole does is measured in the sum of the tracks, at their levels', async () => {
  const [alone] = await measure(0);
  expect(alone!.id).toBe('w');
  expect(alone!.wordsDb).toBeLessThan(-25);
  // Together the hum is gone before: what is left of it is noise, which the high-pass hardly touches.
  const [both] = await measure(1);
  expect(both!.wordsDb).toBeGreaterThan(-1);
});

test('the noise of the whole is that of the sum, through what stands before; a passage is judged in the sum', async () => {
  const passage = { startFrame: RATE_HZ, endFrame: 3 * RATE_HZ };
  const plain = { ...mix(1), chain: parseChain({ treatments: [{ kind: 'noise-reduction', id: 'n' }] }) };
  const whole = new WholeEffects(kernels);
  const together = await whole.profile(plain, [passage]);
  const expected = takeNoiseProfile(
    kernels,
    [sounds[0]!.map((x, n) => x + sounds[1]![n]!).subarray(passage.startFrame, passage.endFrame)],
    RATE_HZ,
  );
  expect(together.channels).toHaveLength(2);
  const [mean, wanted] = [together.channels[1]!.meanPower, expected.channels[0]!.meanPower];
  for (let bin = 10; bin < 900; bin += 50) expect(10 * Math.log10(mean[bin]! / wanted[bin]!)).toBeCloseTo(0, 3);
  const through = await whole.profile({ ...plain, chain: parseChain({ treatments: [...chain.treatments, ...plain.chain.treatments] }) }, [
    passage,
  ]);
  expect(10 * Math.log10(through.channels[0]!.meanPower[3]! / together.channels[0]!.meanPower[3]!)).toBeLessThan(-20);
  expect(await whole.judge(mix(1), passage)).toMatchObject({ verdict: 'clean' });
  await expect(whole.profile(plain, [{ startFrame: LENGTH - 1000, endFrame: LENGTH + 50_000 }])).rejects.toMatchObject({
    code: 'span-outside',
  });
  const [effect] = await whole.measure(plain, passage, together);
  expect(effect!.wordsDb).toBeLessThan(-6);
});
