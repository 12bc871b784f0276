import { readFileSync } from 'node:fs';
import { checkSheet, requireFileSpec, targets, type DeliveryTarget, type Edges } from '@euphonos/engine';
import { joined, kernels, levelDb, mixed, noise, silence, voice } from '../../dsp/src/testing/signals.js';
import { renderFile } from './render-file.js';
import { ebur128, ffmpeg, scratchFolder } from './testing/files.js';

const files = scratchFolder();
afterAll(files.remove);
const RATE_HZ = 48_000;
const talk = voice(4, 128, 5, RATE_HZ);
const full = 0.3 / talk.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
const words = talk.map((x) => full * x);
/** Somebody who talks and pauses, in a room so quiet that no gain lifts it over any floor that is asked. */
const room = mixed(joined(words, silence(1.2), words, silence(0.9), words), noise(-80, 14.1, 4));

const render = (
  name: string,
  sound: Float32Array,
  target: DeliveryTarget | null,
  edges: Edges,
  file = target?.file ?? requireFileSpec({}),
) =>
  renderFile({
    source: (async function* () {
      yield { channels: [sound], frames: sound.length };
    })(),
    expectedFrames: sound.length,
    context: { sampleRateHz: RATE_HZ, channels: 1, kernels },
    chain: { treatments: [] },
    output: 'result',
    target,
    file,
    edges,
    extras: { chapters: [{ title: 'Arrival', startSeconds: 1, endSeconds: 4 }] },
    outPath: files.path(name),
    report: true,
  });
function decoded(name: string): Float32Array {
  ffmpeg('-i', files.path(name), '-f', 'f32le', files.path(`${name}.raw`));
  return new Float32Array(new Uint8Array(readFileSync(files.path(`${name}.raw`))).buffer);
}
/** RMS level and highest sample by ffmpeg's `astats`. */
function astats(name: string): { rmsDbfs: number; samplePeakDbfs: number } {
  const said = ffmpeg('-i', files.path(name), '-af', 'astats=measure_perchannel=none', '-f', 'null', '-');
  const read = (label: RegExp): number => Number(label.exec(said)![1]);
  return { rmsDbfs: read(/RMS level dB: (-?[\d.]+)/), samplePeakDbfs: read(/Peak level dB: (-?[\d.]+)/) };
}

test.each(targets.map((target) => [target.name, target] as const))(
  'the sheet of "%s" agrees with ffmpeg’s ebur128 and astats, and all of it is met',
  async (name, target) => {
    const file = `${name}.${target.file.format}`;
    const result = await render(file, room, target, target);
    const sheet = checkSheet(result.before!, result.after!, target, { work: result.work, file: { ...result.facts, asked: target.file } });
    const told = Object.fromEntries(sheet.map(({ title, after }) => [title, after]));
    const outside = { ...ebur128(files.path(file)), ...astats(file) };
    expect(Math.abs(told['Integrated loudness']! - outside.integratedLufs)).toBeLessThanOrEqual(0.1);
    expect(Math.abs(told['Loudness range']! - outside.loudnessRangeLu)).toBeLessThanOrEqual(0.2);
    // Both shown to a tenth; by 4 × oversampling neither is nearer than that to the peak itself (BS.1770-5, annex 2).
    expect(Math.abs(told['True peak']! - outside.truePeakDbtp)).toBeLessThanOrEqual(0.15);
    if (target.rmsDbfs) expect(Math.abs(told['RMS level']! - outside.rmsDbfs)).toBeLessThanOrEqual(0.1);
    if (target.samplePeakDbfs !== null) expect(Math.abs(told['Sample peak']! - outside.samplePeakDbfs)).toBeLessThanOrEqual(0.1);
    expect(sheet.filter(({ passed }) => passed === false)).toEqual([]);
  },
);

describe('what is put before and behind', () => {
  // Without dither, which is another wherever the sound begins.
  const FLOATS = requireFileSpec({ bits: '32f' });
  const at = (seconds: number): number => Math.round(seconds * RATE_HZ);
  const tone = { head: { seconds: 0.8, fill: 'room-tone' }, tail: { seconds: 2.5, fill: 'room-tone' } } as const;

  test('room tone is as loud as the room, everywhere; the sound is as it was to the bit; no click at the joints', async () => {
    const plain = await render('plain.wav', room, null, { head: null, tail: null }, FLOATS);
    const result = await render('tone.wav', room, null, tone, FLOATS);
    expect(result.frames).toBe(plain.frames + at(3.3));
    const [out, was] = [decoded('tone.wav'), decoded('plain.wav')];
    expect(out.length).toBe(was.length + at(3.3));
    const inner = out.subarray(at(0.81), at(0.8) + was.length - at(0.01));
    expect(inner.every((x, n) => x === was[n + at(0.01)]!)).toBe(true);
    for (const [from, to] of [
      [0.02, 0.4],
      [0.4, 0.79],
      [0.8 + 14.1, 0.8 + 15],
      [0.8 + 15, 0.8 + 16.5],
    ])
      expect(Math.abs(levelDb(out, at(from!), at(to!)) + 80)).toBeLessThan(1);
    // Steps from one sample to the next around the joints are those of the room.
    const steps = (from: number, to: number): number => {
      let most = 0;
      for (let n = at(from); n < at(to); n++) most = Math.max(most, Math.abs(out[n + 1]! - out[n]!));
      return most;
    };
    expect(steps(0.78, 0.8)).toBeLessThan(2 * steps(0.1, 0.6));
    expect(result.facts.edgesDbfs!.every((level) => Math.abs(level! + 80) < 1)).toBe(true);
  });

  test('where a gate left nothing there is no room to take: silence, which the figures say', async () => {
    const gated = joined(words, silence(1.2), words, silence(0.9), words);
    const { facts } = await render('gated.wav', gated, null, tone, FLOATS);
    expect(facts.edgesDbfs).toEqual([null, null]);
  });

  test('silence, coded with loss, at another rate: as long as asked, and chapters move with the sound', async () => {
    const edges = { head: { seconds: 1, fill: 'silence' }, tail: { seconds: 0.5, fill: 'silence' } } as const;
    const spec = requireFileSpec({ format: 'm4a', sampleRateHz: 44_100 });
    const { frames, facts, after } = await render('silence.m4a', room, targets[0]!, edges, spec);
    expect(frames).toBe(Math.round((at(15.6) * 44_100) / RATE_HZ));
    expect(after!.durationSeconds).toBeCloseTo(15.6, 3);
    for (const level of facts.edgesDbfs!) expect(level ?? -Infinity).toBeLessThan(-90);
    expect(ffmpeg('-i', files.path('silence.m4a'), '-f', 'null', '-')).toMatch(
      /start 0\.0+, end 2\.0+[^]*start 2\.0+, end 5\.0+\s+Metadata:\s+title\s+: Arrival/,
    );
  });
});
