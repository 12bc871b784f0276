import { createBlock, dbToGain, type ChainSpec, type PlanarBlock, type ProcessorContext } from '@euphonos/dsp';
import { readyFor } from '@euphonos/second-opinion';
import { AlignedRun, mixLeadFrames, panGains, partedChain, partFramesAt, type Levels, type Parting } from '@euphonos/engine';
import type { SoundBlock } from './sound-block.js';

const BLOCK_FRAMES = 32768;

/** A track of a mix: its sound before the chain, the chain, what clips do to the level, its level among the others. */
export interface MixPart {
  /** From a frame on. */
  readonly source: (startFrame: number) => AsyncIterable<SoundBlock>;
  readonly context: ProcessorContext;
  readonly chain: ChainSpec;
  readonly levels: Levels;
  readonly gainDb: number;
  /** Where it stands, -1 … 1, where the mix has two channels. */
  readonly pan: number;
}

/** A block of a mix, with the sum of what the tracks were before their chains. */
export interface MixBlock extends SoundBlock {
  readonly source: PlanarBlock;
}

/**
 * The sum of tracks, each through its chain, where it stands; as long as the longest. A mono track sounds on every channel.
 * @param partings how each chain is parted: where they go on, the mix begins with the frame from which they are right
 */
export async function* mixTracks(parts: readonly MixPart[], channels: number, partings?: readonly Parting[]): AsyncGenerator<MixBlock> {
  const tracks = parts.map((part, i) => treated(part, partings?.[i] ?? usualParting(part)));
  const gains = parts.map(({ pan }) => (channels === 2 ? panGains(pan) : [1, 1]));
  try {
    for (;;) {
      const blocks = await Promise.all(tracks.map((track) => track.next()));
      const frames = Math.max(0, ...blocks.map(({ value }) => value?.frames ?? 0));
      if (frames === 0) return;
      const [result, source] = [createBlock(channels, frames), createBlock(channels, frames)];
      blocks.forEach(({ value: block }, i) => {
        for (let c = 0; block && c < channels; c++) {
          add(result[c]!, block.channels[c] ?? block.channels[0]!, block.frames, gains[i]![c] ?? 1);
          add(source[c]!, block.source[c] ?? block.source[0]!, block.frames, gains[i]![c] ?? 1);
        }
      });
      yield { channels: result, source, frames };
    }
  } finally {
    // Whoever stops before the end lets go of the files of every track.
    await Promise.all(tracks.map((track) => track.return(undefined)));
  }
}

function add(to: Float32Array, from: Float32Array, frames: number, gain: number): void {
  for (let n = 0; n < frames; n++) to[n]! += gain * from[n]!;
}

function usualParting({ context }: MixPart): Parting {
  const partFrames = partFramesAt(context.sampleRateHz);
  return { partFrames, beforeFrames: mixLeadFrames(partFrames) };
}

/** The sum of tracks as they were before their chains, at their gains, for measures alone. */
export const mixedSources = (parts: readonly MixPart[], channels: number): AsyncGenerator<MixBlock> =>
  mixTracks(
    parts.map((part) => ({ ...part, chain: { treatments: [] } })),
    channels,
  );

/** A stream without its first frames. */
export async function* behind(stream: AsyncIterable<MixBlock>, skipFrames: number): AsyncGenerator<MixBlock> {
  let left = skipFrames;
  for await (const block of stream) {
    const skip = Math.min(left, block.frames);
    left -= skip;
    const rest = (samples: Float32Array): Float32Array => samples.subarray(skip, block.frames);
    if (skip < block.frames)
      yield skip === 0 ? block : { channels: block.channels.map(rest), source: block.source.map(rest), frames: block.frames - skip };
  }
}

/** A stream with silence behind it, up to a length. */
export async function* withSilence(source: AsyncIterable<SoundBlock>, channels: number, lengthFrames: number): AsyncGenerator<SoundBlock> {
  let done = 0;
  for await (const block of source) {
    done += block.frames;
    yield block;
  }
  for (; done < lengthFrames; done += BLOCK_FRAMES) {
    const frames = Math.min(BLOCK_FRAMES, lengthFrames - done);
    yield { channels: createBlock(channels, frames), frames };
  }
}

/** A track after its chain and levels, in blocks of 32768 frames, whatever the chain is late by. */
async function* treated({ source, context, chain, levels, gainDb }: MixPart, parting: Parting): AsyncGenerator<MixBlock, undefined> {
  const gain = dbToGain(gainDb);
  const [result, raw] = [createBlock(context.channels, 2 * BLOCK_FRAMES + 8192), createBlock(context.channels, 2 * BLOCK_FRAMES + 8192)];
  await readyFor(chain);
  let held = 0;
  const parted = partedChain(context, chain, parting);
  let done = parted.startFrame;
  const run = new AlignedRun(parted, context.channels, (processed, before, frames) => {
    levels.apply(processed, 0, done, frames);
    done += frames;
    // Of the lead of a chain that goes on nothing is kept.
    const from = Math.min(frames, Math.max(0, parted.rightFrom - (done - frames)));
    for (let c = 0; c < context.channels; c++)
      for (let n = from; n < frames; n++) {
        result[c]![held + n - from] = processed[c]![n]! * gain;
        raw[c]![held + n - from] = before[c]![n]! * gain;
      }
    held += frames - from;
  });
  const take = (frames: number): MixBlock => {
    const block = {
      channels: result.map((samples) => samples.slice(0, frames)),
      source: raw.map((samples) => samples.slice(0, frames)),
      frames,
    };
    for (const samples of [...result, ...raw]) samples.copyWithin(0, frames, held);
    held -= frames;
    return block;
  };
  for await (const { channels, frames } of source(parted.startFrame)) {
    run.push(channels, frames);
    if (held >= BLOCK_FRAMES) yield take(BLOCK_FRAMES);
  }
  run.finish();
  while (held > 0) yield take(Math.min(held, BLOCK_FRAMES));
  return undefined;
}
