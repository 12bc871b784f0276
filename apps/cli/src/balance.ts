import {
  dbToGain,
  MAX_BLOCK_FRAMES,
  parseChain,
  SoundMeasure,
  TrackListener,
  whoSpeaks,
  type ChainSpec,
  type Listened,
} from '@euphonos/dsp';
import {
  depthFor,
  EngineError,
  Levels,
  levelOf,
  match,
  plainClip,
  raised,
  speechOverBed,
  talkRows,
  type BalanceLine,
} from '@euphonos/engine';
import {
  decodeSound,
  loadKernels,
  measureSound,
  mixTracks,
  newReport,
  probeSound,
  renderSound,
  type MixPart,
  type SoundBlock,
  type SoundFacts,
} from '@euphonos/media';
import { UsageError } from './usage.js';

export interface BalanceOptions {
  readonly bedPath: string | undefined;
  readonly integratedLufs: number;
  /** Speech stands so far above the bed while somebody speaks, and the bed so far under it where nobody does. */
  readonly underLu: number;
  readonly aloneLu: number;
  readonly ceilingDbtp: number;
}

interface Input {
  readonly path: string;
  readonly bed: boolean;
  readonly facts: SoundFacts;
  readonly channels: readonly number[];
}

/** What was done to one file. */
export interface BalancedFile {
  readonly file: string;
  readonly role: 'speech' | 'bed';
  readonly beforeLufs: number | null;
  readonly gainDb: number;
  readonly afterLufs: number | null;
}

const NO_CHAIN: ChainSpec = { treatments: [] };

/** What a bed was turned down by, and how far speech stands above it then. */
export interface BedLowered {
  readonly depthDb: number;
  readonly overLu: number;
  /** How long somebody speaks. */
  readonly speechSeconds: number;
}

/** Opens the files at the rate of the first one; of more than two channels the first two. */
async function open(speechPaths: readonly string[], bedPath: string | undefined): Promise<Input[]> {
  const paths = [...speechPaths.map((path) => ({ path, bed: false })), ...(bedPath === undefined ? [] : [{ path: bedPath, bed: true }])];
  const inputs: Input[] = [];
  for (const { path, bed } of paths) {
    const facts = await probeSound(path);
    inputs.push({ path, bed, facts, channels: facts.channels === 1 ? [0] : [0, 1] });
  }
  return inputs;
}

/**
 * A balanced mix of aligned files: every speech at the loudness asked for, a bed so far under it, the sum brought to that loudness under a
 * true-peak ceiling. Loudness is that of a file where it stands in the mix: one channel sounds on both of two.
 * @throws {EngineError} `level-unknown` when a file is silent or too short to be measured
 */
export async function balanceFiles(speechPaths: readonly string[], outPath: string, options: BalanceOptions) {
  const inputs = await open(speechPaths, options.bedPath);
  if (inputs.length === 0) throw new UsageError('balance needs one file of speech at least.');
  const kernels = loadKernels();
  const { sampleRateHz } = inputs[0]!.facts;
  const channels = Math.max(...inputs.map((input) => input.channels.length));
  const blocks = ({ path, facts, channels: chosen }: Input): AsyncIterable<SoundBlock> =>
    decodeSound(path, facts, { channels: chosen, sampleRateHz }, newReport());
  const lines: (BalanceLine & { readonly frames: number })[] = [];
  const listeners: TrackListener[] = [];
  for (const [i, input] of inputs.entries()) {
    const measure = new SoundMeasure(kernels, sampleRateHz, channels);
    const listener = new TrackListener(kernels, sampleRateHz, channels);
    listeners.push(listener);
    const figures = await measureSound(heardBy(listener, onChannels(blocks(input), channels)), measure);
    const level = levelOf(figures);
    if (level.lufs === null)
      throw new EngineError(
        'level-unknown',
        `"${input.path}" is silent or shorter than 0.4 s, so its loudness cannot be measured. Leave it out, or give another file.`,
      );
    const frames = Math.round(figures.durationSeconds * sampleRateHz);
    lines.push({ trackId: String(i), clipId: null, gainDb: 0, before: level, after: level, frames });
  }
  const aloneLu = Math.min(options.aloneLu, options.underLu);
  const even = lines.map((line, i) => (inputs[i]!.bed ? { ...line, after: raised(line.after, aloneLu) } : line));
  const { levels, short } = match(even, { kind: 'loudness', lufs: options.integratedLufs });
  const lowered = lowerBed(
    inputs.map(({ bed }, i) => ({ bed, heard: listeners[i]!.finish(), gainDb: levels[i]!.gainDb })),
    options.underLu,
  );
  const parts = inputs.map((input, i): MixPart => {
    const { frames } = lines[i]!;
    const clips = [plainClip('c1', 0, { startFrame: 0, endFrame: frames })];
    return {
      source: () => blocks(input),
      context: { sampleRateHz, channels: input.channels.length, kernels },
      chain: input.bed && lowered ? lowered.chain : NO_CHAIN,
      levels: Levels.of(clips, frames, sampleRateHz),
      gainDb: levels[i]!.gainDb,
      pan: 0,
    };
  });
  const result = await renderSound({
    source: mixTracks(parts, channels),
    expectedFrames: Math.max(...lines.map(({ frames }) => frames)),
    context: { sampleRateHz, channels, kernels },
    chain: NO_CHAIN,
    output: 'result',
    target: { integratedLufs: options.integratedLufs, ceilingDbtp: options.ceilingDbtp },
    format: /\.f32\.wav$/i.test(outPath) ? 'float32' : 'pcm24',
    outPath,
    report: true,
  });
  const files = inputs.map(({ path, bed }, i): BalancedFile => {
    const gainDb = levels[i]!.gainDb + result.work.gainDb;
    const before = lines[i]!.before.lufs;
    return { file: path, role: bed ? 'bed' : 'speech', beforeLufs: before, gainDb, afterLufs: before === null ? null : before + gainDb };
  });
  const { chain: _, ...bed } = lowered ?? { chain: NO_CHAIN };
  return {
    files,
    ...(lowered && { bed }),
    short,
    limited: { mostDb: result.work.limitedDb, seconds: result.work.limitedSeconds },
    mix: result.after,
  };
}

/** A stream with as many channels as the mix: one channel stands on all of them. */
async function* onChannels(blocks: AsyncIterable<SoundBlock>, channels: number): AsyncGenerator<SoundBlock> {
  for await (const block of blocks)
    yield { ...block, channels: Array.from({ length: channels }, (_, c) => block.channels[c] ?? block.channels[0]!) };
}

/** The same blocks, heard by a listener on their way. */
async function* heardBy(listener: TrackListener, blocks: AsyncIterable<SoundBlock>): AsyncGenerator<SoundBlock> {
  for await (const block of blocks) {
    for (let at = 0; at < block.frames; at += MAX_BLOCK_FRAMES)
      listener.process(
        block.channels.map((samples) => samples.subarray(at, at + MAX_BLOCK_FRAMES)),
        Math.min(MAX_BLOCK_FRAMES, block.frames - at),
      );
    yield block;
  }
}

/** What turns the bed down while somebody speaks, so that speech stands where it was asked for; null without a bed, or a word. */
function lowerBed(
  parts: readonly { readonly bed: boolean; readonly heard: Listened; readonly gainDb: number }[],
  underLu: number,
): (BedLowered & { readonly chain: ChainSpec }) | null {
  const bed = parts.find((one) => one.bed);
  const speech = parts.filter((one) => !one.bed);
  if (!bed) return null;
  const spoken = whoSpeaks(speech.map(({ heard }) => heard)).map((spans, i) =>
    spans.map((span) => ({ ...span, lufs: span.lufs + speech[i]!.gainDb })),
  );
  const powers = ({ heard, gainDb }: (typeof parts)[number]): Float32Array => heard.powers.map((x) => x * dbToGain(gainDb) ** 2);
  const { overLu } = speechOverBed(speech.map(powers), powers(bed), bed.heard.stepSeconds, spoken.flat());
  if (overLu === null) return null;
  const depthDb = depthFor(underLu, overLu, 0);
  const talk = talkRows(spoken).map((row) => ({ ...row, lufs: Math.round(10 * row.lufs) / 10 }));
  return {
    depthDb,
    overLu: Math.round(10 * (overLu + depthDb)) / 10,
    speechSeconds: Math.round(10 * talk.reduce((sum, { startSeconds, endSeconds }) => sum + endSeconds - startSeconds, 0)) / 10,
    chain: parseChain({ treatments: [{ kind: 'under-speech', depthDb, talk }] }),
  };
}
