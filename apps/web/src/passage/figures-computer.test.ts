import { parseChain, takeNoiseProfile } from '@euphonos/dsp';
import { applyEdit, createDocument } from '@euphonos/engine';
import { joined, kernels, mixed, noise, RATE_HZ, sine } from '../../../../packages/dsp/src/testing/signals.js';
import { soundOf } from '../audio/arranged.js';
import { FiguresComputer } from './figures-computer.js';
import { oneRecording } from '../audio/testing/one-recording.js';

const word = (hz: number): Float32Array => sine(hz, -20, 2).map((x, n) => x * Math.sin((Math.PI * n) / 96_000));
const recording = mixed(joined(new Float32Array(96_000), word(300), word(1000), word(200), new Float32Array(48_000)), noise(-50, 9, 2));
const LENGTH = recording.length;
const profile = takeNoiseProfile(kernels, [recording.subarray(0, 90_000)], RATE_HZ);
const spec = parseChain({
  treatments: [{ kind: 'high-pass', cutoffHz: 120 }, { kind: 'noise-reduction', reductionDb: 15 }, { kind: 'gate' }],
});
const source = { ...oneRecording(LENGTH), sampleRateHz: RATE_HZ };
const document = createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: RATE_HZ, channels: 1 });
const whole = { startFrame: 0, endFrame: LENGTH };

beforeAll(() => {
  globalThis.fetch = jest.fn(async (_url: unknown, init: RequestInit) => {
    const [, from, to] = /bytes=(\d+)-(\d+)/.exec((init.headers as Record<string, string>)['range']!)!;
    return { ok: true, arrayBuffer: async () => recording.slice(Number(from) / 4, (Number(to) + 1) / 4).buffer } as Response;
  }) as unknown as typeof fetch;
});

function computer(): FiguresComputer {
  const made = new FiguresComputer(source, kernels);
  made.setChain(spec, profile);
  return made;
}

test('the gaps are lower in the result, and a passage is judged and profiled', async () => {
  const made = computer();
  const figures = await made.figures(whole);
  expect(figures.source.noiseFloorDbfs!).toBeCloseTo(-50, 0);
  expect(figures.result.noiseFloorDbfs!).toBeLessThan(-62);
  expect(Math.abs(figures.result.integratedLufs! - figures.source.integratedLufs!)).toBeLessThan(1);
  expect((await made.judge({ startFrame: 0, endFrame: 90_000 }, null)).verdict).toBe('clean');
  expect((await made.judge({ startFrame: 60_000, endFrame: 180_000 }, null)).verdict).toBe('speech');
  expect(await made.profile([{ startFrame: 0, endFrame: 90_000 }], { treatments: [] })).toEqual(profile);
});

test('figures are of the clips as they stand: a cut moves what follows up, a level counts in the result alone', async () => {
  const made = computer();
  const cut = applyEdit(document, { type: 'cut-spans', trackId: 'track-1', spans: [{ startFrame: 0, endFrame: 96_000 }], close: true });
  const lowered = applyEdit(cut, { type: 'level-spans', trackId: 'track-1', spans: [{ startFrame: 0, endFrame: 288_000 }], byDb: -6 });
  const words = { startFrame: 0, endFrame: 288_000 };
  made.setSound(soundOf(cut.tracks[0]!));
  const before = await made.figures(words);
  made.setSound(soundOf(lowered.tracks[0]!));
  const after = await made.figures(words);
  expect(after.result.rmsDbfs! - before.result.rmsDbfs!).toBeCloseTo(-6, 1);
  expect(after.source.rmsDbfs).toBe(before.source.rmsDbfs);
  made.setSound(soundOf(document.tracks[0]!));
  expect((await made.figures({ startFrame: 96_000, endFrame: 384_000 })).source.rmsDbfs!).toBeCloseTo(before.source.rmsDbfs!, 2);
});

test('spectra of source and result, and what each treatment does, in the span asked for', async () => {
  const made = computer();
  const { binHz, source: came, result } = await made.spectra({ startFrame: 192_000, endFrame: 288_000 });
  const peak = came.indexOf(came.reduce((most, db) => Math.max(most, db)));
  expect(Math.abs(peak * binHz - 1000)).toBeLessThan(2 * binHz);
  expect(came[Math.round(8000 / binHz)]! - result[Math.round(8000 / binHz)]!).toBeGreaterThan(8);
  expect((await made.effects(whole)).map(({ id }) => id)).toEqual(['high-pass', 'noise-reduction', 'gate']);
});
