import { createBlock, dbToGain, type ChainSpec, type PlanarBlock, type ProcessorContext } from '@euphonos/dsp';
import { readyFor } from '@euphonos/second-opinion';
import { chainRun, panGains, type Levels } from '@euphonos/engine';
import type { SoundBlock } from './sound-block.js';

const BLOCK_FRAMES = 32768;

/** A track of a mix: its sound before the chain, the chain, what clips do to the level, its level among the others. */
export interface MixPart {
  readonly source: AsyncIterable<SoundBlock>;
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

/** The sum of tracks, each through its chain, where it stands; as long as the longest. A mono track sounds on every channel. */
export async function* mixTracks(parts: readonly MixPart[], channels: number): AsyncGenerator<MixBlock> {
  const tracks = parts.map((part) => treated(part));
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
async function* treated({ source, context, chain, levels, gainDb }: MixPart): AsyncGenerator<MixBlock, undefined> {
  const gain = dbToGain(gainDb);
  const [result, raw] = [createBlock(context.channels, 2 * BLOCK_FRAMES + 8192), createBlock(context.channels, 2 * BLOCK_FRAMES + 8192)];
  await readyFor(chain);
  let held = 0;
  let done = 0;
  const run = chainRun(context, chain, (processed, before, frames) => {
    levels.apply(processed, 0, done, frames);
    done += frames;
    for (let c = 0; c < context.channels; c++)
      for (let n = 0; n < frames; n++) {
        result[c]![held + n] = processed[c]![n]! * gain;
        raw[c]![held + n] = before[c]![n]! * gain;
      }
    held += frames;
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
  for await (const { channels, frames } of source) {
    run.push(channels, frames);
    if (held >= BLOCK_FRAMES) yield take(BLOCK_FRAMES);
  }
  run.finish();
  while (held > 0) yield take(Math.min(held, BLOCK_FRAMES));
  return undefined;
}
