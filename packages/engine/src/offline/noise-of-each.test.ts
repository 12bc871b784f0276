import { parseChain, type NoiseProfile } from '@euphonos/dsp';
import { joined, kernels, levelDb, mixed, noise, RATE_HZ, voice } from '../../../dsp/src/testing/signals.js';
import { noisePlan, type SessionDocument } from '../document/document.js';
import { createDocument } from '../document/create.js';
import { applyEdit } from '../document/edits.js';
import { parseDocument } from '../document/parse.js';
import { Monitor } from '../monitor/monitor.js';
import { codeOf, of, trackOf } from '../testing/documents.js';
import { listen, store } from '../testing/listening.js';
import { chainRun } from './chain-run.js';
import { placedProfile, profilePassages } from './profile-passage.js';

const SECONDS = 3;
const LENGTH = SECONDS * RATE_HZ;
const context = { sampleRateHz: RATE_HZ, channels: 1, kernels };
/** A loud room, and a quiet one 20 dB below. */
const rooms = [noise(-40, SECONDS, 3), noise(-60, SECONDS, 4)];
const facts = (id: string) => ({ id, name: id, lengthFrames: LENGTH, sampleRateHz: RATE_HZ, channels: 1 });
const document = createDocument(['loud', 'quiet'].map(facts), 'sequence');
const second = trackOf(document).reel[1]!.startFrame;
const span = (startFrame: number) => ({ startFrame, endFrame: startFrame + RATE_HZ });
const noisy = (each: boolean): SessionDocument =>
  applyEdit(document, {
    type: 'set-noise',
    ...of,
    noise: { kind: 'passages', spans: [span(0), span(second)], ...(each ? { each: true as const } : {}) },
  });
const read = async (from: number, to: number): Promise<Float32Array[]> => [
  Float32Array.from({ length: to - from }, (_, n) => rooms[0]![from + n] ?? rooms[1]![from + n - second] ?? 0),
];
const spec = parseChain({ treatments: [{ kind: 'noise-reduction', mode: 'fixed', reductionDb: 20, thresholdDb: 3 }] });
const profileOf = (each: boolean): Promise<NoiseProfile> => profilePassages(context, spec, noisePlan(trackOf(noisy(each))), read);
const both = joined(...rooms);

function rendered(profile: NoiseProfile, sound = both): Float32Array {
  const parts: Float32Array[] = [];
  const run = chainRun({ ...context, noiseProfile: profile }, spec, (out, _, frames) => parts.push(out[0]!.slice(0, frames)));
  run.push([sound], sound.length);
  run.finish();
  return joined(...parts);
}
const taken = (out: Float32Array, recording: number): number => {
  const [from, to] = [recording * LENGTH + RATE_HZ, (recording + 1) * LENGTH - RATE_HZ / 2];
  return levelDb(both, from, to) - levelDb(out, from, to);
};

test('each recording is weighed by its own noise, where its clips stand', async () => {
  const { clips } = trackOf(document);
  const own = rendered(placedProfile(await profileOf(true), clips));
  expect(taken(own, 0)).toBeGreaterThan(17);
  expect(taken(own, 0)).toBeLessThan(21);
  expect(taken(own, 1)).toBeGreaterThan(17);
  expect(taken(own, 1)).toBeLessThan(21);
});

test('soft words over a quiet room stay with the noise of that room, and lose more with the noise of both', async () => {
  const { clips } = trackOf(document);
  const words = voice(SECONDS, 150).map((x) => x / 20);
  const heard = joined(rooms[0]!, mixed(rooms[1]!, words));
  const kept = (profile: NoiseProfile): number => levelDb(rendered(profile, heard), LENGTH + RATE_HZ, 2 * LENGTH) - levelDb(words, RATE_HZ);
  const own = kept(placedProfile(await profileOf(true), clips));
  expect(own).toBeGreaterThan(-2);
  expect(own - kept(await profileOf(false))).toBeGreaterThan(3);
});

test('a profile is placed where clips sound, in their order; one of a single noise stays as it is', async () => {
  const profile = await profileOf(true);
  expect(profile.places!.map(({ startFrame, endFrame }) => [startFrame, endFrame])).toEqual([
    [0, LENGTH],
    [second, second + LENGTH],
  ]);
  const turned = applyEdit(document, { type: 'move-span', ...of, span: { startFrame: 0, endFrame: LENGTH }, toFrame: 2 * LENGTH });
  const placed = placedProfile(profile, trackOf(turned).clips);
  expect(
    placed.places!.map(({ startFrame, endFrame, channels }) => [startFrame, endFrame, channels === profile.places![1]!.channels]),
  ).toEqual([
    [0, LENGTH, true],
    [LENGTH, 2 * LENGTH, false],
  ]);
  const one = await profileOf(false);
  expect(placedProfile(one, trackOf(turned).clips)).toBe(one);
});

test('it is heard as it is rendered, from the middle too', async () => {
  const profile = placedProfile(await profileOf(true), trackOf(document).clips);
  const render = rendered(profile);
  for (const start of [0, LENGTH + 20_000]) {
    const monitor = new Monitor(context, { store: store(both), lengthFrames: both.length, levels: null });
    monitor.setChain(spec, profile);
    monitor.play(start);
    const { out, frames } = listen(monitor, 1.5);
    const first = frames.findIndex((frame) => frame >= 0) + 12;
    const heard = out.subarray(first * 128, first * 128 + RATE_HZ);
    expect(levelDb(heard.map((x, n) => x - render[frames[first]! + n]!))).toBeLessThan(-90);
  }
});

test('it is stored, and many takes may each bring passages of their own', () => {
  const stored = parseDocument(JSON.parse(JSON.stringify(noisy(true))));
  expect(stored).toEqual(noisy(true));
  const spans = Array.from({ length: 9 }, (_, i) => ({ startFrame: i * 15_000, endFrame: i * 15_000 + 14_500 }));
  const set = (each: boolean) => () =>
    applyEdit(document, { type: 'set-noise', ...of, noise: { kind: 'passages', spans, ...(each ? { each: true as const } : {}) } });
  expect(codeOf(set(false))).toBe('passages-many');
  expect(codeOf(set(true))).toBe('nothing thrown');
});
