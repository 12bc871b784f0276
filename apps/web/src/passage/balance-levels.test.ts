import { parseChain } from '@euphonos/dsp';
import { applyEdit, createDocument, panGains, type Edit } from '@euphonos/engine';
import { joined, kernels, noise, RATE_HZ, silence, sine } from '../../../../packages/dsp/src/testing/signals.js';
import { soundOf } from '../audio/arranged.js';
import { oneRecording } from '../audio/testing/one-recording.js';
import { BalanceLevels } from './balance-levels.js';
import type { RestTrack } from './rest-sound.js';

// A tone of 1 kHz at -23 dBFS (peak) on one channel is -26 LUFS: EBU Tech 3341's first signal has it on both, at -23 LUFS.
const loud = sine(1000, -23, 4);
const soft = sine(1000, -33, 4);
const sound = joined(loud, silence(1), soft);
const LENGTH = sound.length;
const bed = noise(-60, LENGTH / RATE_HZ, 1);
const sounds = [sound, bed];
const document = createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: RATE_HZ, channels: 1 });
const of = { trackId: 'track-1' };
const after = (...edits: Edit[]) => edits.reduce(applyEdit, document).tracks[0]!;

beforeAll(() => {
  globalThis.fetch = jest.fn(async (url: string, init: RequestInit) => {
    const [, from, to] = /bytes=(\d+)-(\d+)/.exec((init.headers as Record<string, string>)['range']!)!;
    const samples = sounds[Number(url.split('/').pop())]!;
    return { ok: true, arrayBuffer: async () => samples.slice(Number(from) / 4, (Number(to) + 1) / 4).buffer } as Response;
  }) as unknown as typeof fetch;
});
const rest = (channel: number, track = document.tracks[0]!, treatments: object[] = []): RestTrack => ({
  id: `t${channel}`,
  key: JSON.stringify([track.clips, treatments]),
  source: { ...oneRecording(LENGTH, channel), sampleRateHz: RATE_HZ },
  sound: soundOf(track),
  chain: parseChain({ treatments }),
  noise: null,
});

test('a track and each of its clips, as recorded and as treated, with the gains of clips', async () => {
  const cut = after(
    { type: 'split-clips', ...of, frames: [4 * RATE_HZ, 5 * RATE_HZ] },
    { type: 'set-levels', title: '', levels: [{ ...of, clipId: 'c3', gainDb: 10 }] },
  );
  const ids = cut.clips.map(({ id }) => id);
  const { track, clips } = await new BalanceLevels(kernels).track(rest(0, cut), [1]);
  expect(clips[ids[0]!]!.before.lufs).toBeCloseTo(-26, 1);
  expect(clips[ids[1]!]!.before.lufs).toBeNull();
  const [gained] = cut.clips.filter(({ gainDb }) => gainDb === 10);
  expect(clips[gained!.id]!.after.lufs! - clips[gained!.id]!.before.lufs!).toBeCloseTo(10, 1);
  expect(clips[ids[0]!]!.after.truePeakDbtp).toBeCloseTo(-23, 0);
  expect(track.before.lufs).not.toBeNull();
  const lowered = await new BalanceLevels(kernels).track(
    rest(0, cut, [{ kind: 'tone', bands: [{ shape: 'bell', frequencyHz: 1000, gainDb: -6, q: 0.7 }] }]),
    [1],
  );
  expect(lowered.clips[ids[0]!]!.after.lufs! - clips[ids[0]!]!.after.lufs!).toBeCloseTo(-6, 1);
  expect(lowered.clips[ids[0]!]!.before).toEqual(clips[ids[0]!]!.before);
});

test('a clip is measured across the pieces in which sound is read', async () => {
  const { clips, track } = await new BalanceLevels(kernels).track(rest(0), [1]);
  expect(Object.keys(clips)).toEqual(['c1']);
  expect(clips['c1']!.before.lufs).toBeCloseTo(track.before.lufs!, 6);
});

test('the mix over time: as recorded, and at its levels through the chain on the whole', async () => {
  const mix = {
    tracks: [
      { track: rest(0), gains: [1, 1] as const },
      { track: rest(1), gains: [0, 0] as const },
    ],
    channels: 2,
    sampleRateHz: RATE_HZ,
    chain: parseChain({ treatments: [{ kind: 'limiter', ceilingDbtp: -12, driveDb: 6 }] }),
    lengthFrames: LENGTH,
  };
  const { before, after: result, level } = await new BalanceLevels(kernels).mix(mix);
  expect(before.shortTermLufs.length).toBe(result.shortTermLufs.length);
  // A mono track on both channels is 3 dB louder than on one.
  expect(before.shortTermLufs[0]!).toBeCloseTo(-23, 0);
  expect(result.shortTermLufs[0]! - before.shortTermLufs[0]!).toBeCloseTo(6, 0);
  expect(level.truePeakDbtp!).toBeLessThan(-11.9);
});

test('where it stands counts: on both channels a voice is 3 LU louder, its peaks are as they were', async () => {
  const levels = new BalanceLevels(kernels);
  const { track: one } = await levels.track(rest(0), [1]);
  const { track: both } = await levels.track(rest(0), [1, 1]);
  expect(both.after.lufs! - one.after.lufs!).toBeCloseTo(3.01, 2);
  expect(both.after.truePeakDbtp).toBeCloseTo(one.after.truePeakDbtp!, 6);
  // Panned the loudness stays (panGains keeps the power), the louder side's peaks rise.
  const { track: aside } = await levels.track(rest(0), panGains(0.6));
  expect(aside.after.lufs).toBeCloseTo(both.after.lufs!, 2);
  expect(aside.after.truePeakDbtp!).toBeGreaterThan(both.after.truePeakDbtp! + 1.5);
  expect(aside.before).toEqual(both.before);
});
