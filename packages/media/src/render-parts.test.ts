import { readFileSync } from 'node:fs';
import { rename } from 'node:fs/promises';
import { parseChain, type ChainSpec } from '@euphonos/dsp';
import { Levels, mixLeadFrames, partFramesAt, PartNotes, PLAIN_FILE, plainClip, type FileSpec, type PartMemory } from '@euphonos/engine';
import { kernels, noise, RATE_HZ, sine } from '../../dsp/src/testing/signals.js';
import { behind, mixedSources, mixTracks, type MixPart } from './mix.js';
import { renderFile, type FileResult } from './render-file.js';
import type { KeptParts } from './render-passes.js';
import type { SoundBlock } from './sound-block.js';
import { scratchFolder } from './testing/files.js';

const files = scratchFolder();
afterAll(() => files.remove());

const SECONDS = 35;
/** Long enough for the lead that a filter on the whole needs of the tracks. */
const PART_FRAMES = partFramesAt(RATE_HZ, 11);
const context = { sampleRateHz: RATE_HZ, channels: 1, kernels };
const talks = new Map<number, Float32Array>();
/** Words, pauses and a floor that gets louder: a mix of levels that a gate, a limiter and a loudness gate have to do with. Made once a seed. */
const talk = (hz: number, seed: number): Float32Array => {
  const made = talks.get(seed) ?? spoken(hz, seed);
  talks.set(seed, made);
  return made;
};
const spoken = (hz: number, seed: number): Float32Array => {
  const floor = noise(-56, SECONDS, seed);
  const voice = sine(hz, -9, SECONDS);
  return floor.map((x, n) => {
    const word = Math.max(0, Math.sin((2 * Math.PI * (n / RATE_HZ) * (1.1 + seed / 10)) / 2)) ** 0.5;
    return x * (1 + n / (4 * RATE_HZ)) + word * (n % (6 * RATE_HZ) < 4 * RATE_HZ ? 1 : 0) * voice[n]!;
  });
};

/** Blocks of no particular length, from a frame on. */
const from = (sound: Float32Array) =>
  async function* (startFrame: number): AsyncGenerator<SoundBlock> {
    for (let at = startFrame; at < sound.length; at += 10_000)
      yield { channels: [sound.subarray(at, Math.min(sound.length, at + 10_000))], frames: Math.min(10_000, sound.length - at) };
  };

interface Kept {
  readonly paths: readonly string[];
  readonly memories: readonly (PartMemory | undefined)[];
}

type Sound = Pick<KeptParts, 'heardFrom' | 'source'> & { readonly parting: (notes: PartNotes) => KeptParts['parting'] };

/** A render that ends after so many parts, or goes on behind what was kept. */
async function rendered(
  name: string,
  sound: (notes: PartNotes, parts: number) => Sound,
  chain: ChainSpec,
  file: FileSpec,
  of: { held?: Kept; stopAfter?: number },
) {
  const { held, stopAfter = Infinity } = of;
  const notes = new PartNotes(held && { part: held.paths.length, memories: held.memories });
  const { heardFrom, source, parting } = sound(notes, held?.paths.length ?? 0);
  let kept: Kept = held ?? { paths: [], memories: [] };
  const stop = new AbortController();
  const outPath = files.path(`${name}.wav`);
  const result: FileResult | undefined = await renderFile({
    source: heardFrom(0),
    parts: {
      parting: parting(notes),
      paths: held?.paths ?? [],
      heardFrom,
      source,
      keep: async (count, path) => {
        const place = files.path(`${name}-${count}.part`);
        await rename(path, place);
        kept = { paths: [...kept.paths, place], memories: notes.take(count) };
        if (count === stopAfter) stop.abort();
        return place;
      },
    },
    expectedFrames: SECONDS * RATE_HZ,
    context,
    chain,
    output: 'result',
    target: { integratedLufs: -16, ceilingDbtp: -6 },
    file,
    outPath,
    report: true,
    signal: stop.signal,
  }).catch((error: { code: string }) => {
    expect(error.code).toBe('cancelled');
    return undefined;
  });
  return { result, kept, bytes: () => readFileSync(outPath) };
}

const rounded = (result: unknown): unknown =>
  JSON.parse(JSON.stringify(result, (_, value: unknown) => (typeof value === 'number' ? Number(value.toPrecision(10)) : value)));

const chain = parseChain({ treatments: [{ kind: 'plosives' }, { kind: 'gate' }, { kind: 'compressor' }] });
const wav = PLAIN_FILE;

const alone = (notes: PartNotes): Sound => {
  const heard = from(talk(190, 3));
  return { heardFrom: heard, source: () => heard(0), parting: () => notes.parting(0, PART_FRAMES) };
};

/** Tracks through chains of their own, one of which ends long before the others and one within the lead to a part; and a chain on the whole. */
const together = (notes: PartNotes, parts: number): Sound => {
  const track = (sound: Float32Array, own: ChainSpec): MixPart => ({
    source: from(sound),
    context,
    chain: own,
    levels: Levels.of([plainClip('c1', 0, { startFrame: 0, endFrame: sound.length })], sound.length, RATE_HZ),
    gainDb: -3,
    pan: 0,
  });
  const lead = mixLeadFrames(PART_FRAMES);
  const tracks = [
    track(talk(310, 6).subarray(0, 5 * RATE_HZ), parseChain({ treatments: [{ kind: 'compressor' }] })),
    track(talk(280, 7).subarray(0, 2 * PART_FRAMES - lead - RATE_HZ / 10), parseChain({ treatments: [{ kind: 'gate' }] })),
    track(talk(170, 4), parseChain({ treatments: [{ kind: 'gate' }] })),
    track(talk(240, 5), parseChain({ treatments: [{ kind: 'plosives' }] })),
  ];
  const mix = () =>
    mixTracks(
      tracks,
      1,
      tracks.map((_, i) => notes.parting(i, PART_FRAMES, lead)),
    );
  return {
    heardFrom: (frame) => (frame === 0 ? mix() : behind(mix(), frame - (parts * PART_FRAMES - lead))),
    source: () => mixedSources(tracks, 1),
    parting: () => notes.parting(tracks.length, PART_FRAMES),
  };
};

test.each([
  ['a track', alone, chain, wav],
  ['a track at another rate', alone, chain, { ...wav, sampleRateHz: 44_100 }],
  ['a mix, with a filter on the whole', together, parseChain({ treatments: [{ kind: 'high-pass' }] }), wav],
])('%s: broken off after any part and gone on with, it is the same file, with the same measures', async (name, sound, spec, file) => {
  const whole = await rendered(`${name}-whole`, sound, spec, file, {});
  expect(whole.kept.paths.length).toBe(3);
  let kept: Kept | undefined;
  for (const stopAfter of [1, 2, 3]) {
    const broken = await rendered(`${name}-${stopAfter}`, sound, spec, file, { ...(kept && { held: kept }), stopAfter });
    expect(broken.result).toBeUndefined();
    expect(broken.kept.paths.length).toBe(stopAfter);
    kept = broken.kept;
  }
  const gone = await rendered(`${name}-gone`, sound, spec, file, { held: kept! });
  expect(gone.bytes().equals(whole.bytes())).toBe(true);
  // Sums of what was measured twice are rounded otherwise in their last digit.
  expect(rounded(gone.result)).toEqual(rounded(whole.result));
  expect(whole.result!.work.limitedDb).toBeGreaterThan(0.5);
});
