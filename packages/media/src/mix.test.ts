import { parseChain } from '@euphonos/dsp';
import { Levels, plainClip } from '@euphonos/engine';
import { joined, kernels, levelDb, noise, RATE_HZ, sine } from '../../dsp/src/testing/signals.js';
import type { SoundBlock } from './sound-block.js';
import { mixTracks, withSilence, type MixPart } from './mix.js';

async function* blocksOf(sound: Float32Array): AsyncGenerator<SoundBlock> {
  for (let at = 0; at < sound.length; at += 32768)
    yield { channels: [sound.subarray(at, at + 32768)], frames: Math.min(32768, sound.length - at) };
}
const part = (sound: Float32Array, more: Partial<MixPart> = {}): MixPart => ({
  source: () => blocksOf(sound),
  context: { kernels, sampleRateHz: RATE_HZ, channels: 1 },
  chain: { treatments: [] },
  gainDb: 0,
  pan: 0,
  levels: Levels.of([plainClip('c1', 0, { startFrame: 0, endFrame: sound.length })], sound.length, RATE_HZ),
  ...more,
});
async function mixed(parts: readonly MixPart[], channels = 1): Promise<{ out: Float32Array[]; source: Float32Array }> {
  const blocks = [];
  for await (const block of mixTracks(parts, channels)) blocks.push(block);
  return {
    out: Array.from({ length: channels }, (_, c) => joined(...blocks.map((block) => block.channels[c]!))),
    source: joined(...blocks.map((block) => block.source[0]!)),
  };
}
const tone = sine(400, -20, 2.3);
const hiss = noise(-40, 1.1, 4);

test('one track as it is comes out to the bit, on every channel', async () => {
  const { out } = await mixed([part(tone)], 2);
  for (const channel of out) expect(Buffer.from(channel.buffer).equals(Buffer.from(tone.buffer))).toBe(true);
});

test('tracks add up at their levels, as long as the longest', async () => {
  const {
    out: [sum],
    source,
  } = await mixed([part(tone), part(hiss, { gainDb: -6 })]);
  expect(sum!.length).toBe(tone.length);
  const rest = sum!.map((x, n) => x - tone[n]!);
  expect(levelDb(rest, 0, hiss.length)).toBeCloseTo(levelDb(hiss) - 6, 1);
  expect(levelDb(rest, hiss.length + 10, tone.length)).toBeLessThan(-150);
  expect(levelDb(source.map((x, n) => x - sum![n]!))).toBeLessThan(-150);
});

test('chains of other latencies stay aligned to the sample', async () => {
  const late = parseChain({ treatments: [{ kind: 'clicks', sensitivity: 1 }] });
  const {
    out: [sum],
  } = await mixed([
    part(tone),
    part(
      tone.map((x) => -x),
      { chain: late },
    ),
  ]);
  expect(levelDb(sum!, 4800, tone.length)).toBeLessThan(-140);
});

test('a track stands where it is panned to, with the same loudness anywhere', async () => {
  const { out: sides } = await mixed([part(tone, { pan: -1 })], 2);
  expect(levelDb(sides[0]!)).toBeCloseTo(levelDb(tone) + 10 * Math.log10(2), 2);
  expect(levelDb(sides[1]!)).toBeLessThan(-150);
  const { out } = await mixed([part(tone, { pan: 0.4 }), part(hiss, { pan: -0.4, gainDb: -60 })], 2);
  const power = out.reduce((sum, channel) => sum + 10 ** (levelDb(channel) / 10), 0);
  expect(10 * Math.log10(power / 2)).toBeCloseTo(levelDb(tone), 2);
  expect(levelDb(out[1]!) - levelDb(out[0]!)).toBeGreaterThan(3);
});

test('a stem is as long as the mix: silence behind it', async () => {
  const blocks: SoundBlock[] = [];
  for await (const block of withSilence(mixTracks([part(hiss)], 2), 2, tone.length)) blocks.push(block);
  const stem = joined(...blocks.map((block) => block.channels[1]!));
  expect(stem.length).toBe(tone.length);
  expect(stem.subarray(0, hiss.length)).toEqual(hiss);
  expect(Math.max(...stem.subarray(hiss.length))).toBe(0);
});
