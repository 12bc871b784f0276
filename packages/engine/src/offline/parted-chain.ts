import {
  Chain,
  createBlock,
  Memory,
  Turn,
  type ChainSpec,
  type PlanarBlock,
  type Processor,
  type ProcessorContext,
  type StageFacts,
} from '@euphonos/dsp';
import { GRID_FRAMES } from '../monitor/memories.js';

/** A long render is made of parts of this length: a whole number of GRID_FRAMES at every rate. */
export const PART_SECONDS = 600;

export const partFramesAt = (sampleRateHz: number, seconds = PART_SECONDS): number =>
  GRID_FRAMES * Math.round((seconds * sampleRateHz) / GRID_FRAMES);

/** What is heard before a place of a long render may take longer than what is heard at once (LEAD_SECONDS): so much of each stage fades further. */
const PART_LEAD_SECONDS = 1;
/** After what a stage remembers was read, this long until what it makes is right. */
const SETTLE_SECONDS = 0.3;

/** How a chain goes on at the beginning of a part: it hears `frames` before it, and its stages read what they remember on the way. */
export interface Lead {
  readonly frames: number;
  /** Frames after its start, one for each stage that remembers. */
  readonly readAfter: readonly number[];
}

/** Each stage in turn hears, reads, settles: only what comes out of it then is right for the next one. */
export function leadOf(stages: readonly StageFacts[], sampleRateHz: number): Lead {
  const gridded = (seconds: number, latencyFrames: number): number =>
    GRID_FRAMES * Math.ceil((seconds * sampleRateHz + latencyFrames) / GRID_FRAMES);
  const readAfter: number[] = [];
  let frames = 0;
  for (const { latencyFrames, remembers } of stages) {
    frames += gridded(PART_LEAD_SECONDS, latencyFrames);
    if (!remembers) continue;
    readAfter.push(frames);
    frames += gridded(SETTLE_SECONDS, latencyFrames);
  }
  return { frames, readAfter };
}

/** What the stages of a chain remember of all that came before a part. */
export type PartMemory = readonly ArrayBuffer[];

export interface Parting {
  /** Length of a part, on the grid. */
  readonly partFrames: number;
  /** Parts begin so much before their multiples: where something else that hears this chain needs a lead. On the grid. */
  readonly beforeFrames?: number;
  /** Goes on at the beginning of this part; left out, from the beginning. Of sound that ended before it nothing is remembered. */
  readonly goOn?: { readonly part: number; readonly memory: PartMemory | undefined } | undefined;
  /** Told what is needed to go on at a part, before it begins. */
  readonly onMemory?: ((part: number, memory: PartMemory) => void) | undefined;
}

/**
 * A chain that starts anew at the beginning of every part: another one that has heard a lead, and read what its stages remember, takes its place.
 * So a render in one piece and one that is gone on with elsewhere are the same to the bit, by what they are made of; against a chain
 * that ran through it lies below -95 dBFS over the second after a joint. Sound shorter than a part goes through one chain.
 */
export class PartedChain<Stages extends Chain | Turn> implements Processor {
  readonly latencyFrames: number;
  /** The frame of the stream that is to come in first. */
  readonly startFrame: number;
  /** What comes out is right from this frame on. */
  readonly rightFrom: number;
  readonly #lead: Lead;
  readonly #aside: Float32Array[];
  #now: Stages;
  #next: Stages | null = null;
  /** What the next one is to remember, as far as it is known. */
  #memory: ArrayBuffer[] = [];
  #frame: number;
  #part: number;

  /** @param create makes the chain for a stream that begins at this frame */
  constructor(
    private readonly create: (startFrame: number) => Stages,
    sampleRateHz: number,
    channels: number,
    private readonly parting: Parting,
  ) {
    const first = create(0);
    this.latencyFrames = first.latencyFrames;
    this.#lead = leadOf(first.stages, sampleRateHz);
    this.#aside = createBlock(channels, GRID_FRAMES);
    const { goOn } = parting;
    this.#part = goOn?.part ?? 0;
    this.rightFrom = goOn ? this.#beginOf(goOn.part) : 0;
    this.startFrame = goOn ? this.rightFrom - this.#lead.frames : 0;
    this.#frame = this.startFrame;
    this.#now = goOn ? this.#begin(this.startFrame) : first;
  }

  #beginOf(part: number): number {
    // Two chains run at most: what is shorter than that is not parted.
    const { partFrames, beforeFrames = 0 } = this.parting;
    const least = this.#lead.frames + this.latencyFrames + beforeFrames + GRID_FRAMES;
    return partFrames > least ? part * partFrames - beforeFrames : Infinity;
  }

  #begin(startFrame: number): Stages {
    const stages = this.create(startFrame);
    stages.goOnAt(startFrame);
    return stages;
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    for (let at = 0; at < frames;) {
      const next = this.#beginOf(this.#part + 1);
      const toSwitch = next + this.latencyFrames - this.#frame;
      const count = Math.min(frames - at, GRID_FRAMES - (this.#frame % GRID_FRAMES), toSwitch);
      const part = (block: PlanarBlock): Float32Array[] => block.map((samples) => samples.subarray(at, at + count));
      const from = part(input);
      // Before what comes in may be written over.
      this.#next?.process(from, this.#aside, count);
      this.#now.process(from, part(output), count);
      at += count;
      this.#frame += count;
      if (this.#frame % GRID_FRAMES === 0) this.#atGrid();
      if (count === toSwitch) this.#switch();
    }
  }

  #switch(): void {
    this.#now = this.#next!;
    this.#next = null;
    this.#part++;
  }

  /** Before the frame that comes next, where that is on the grid. */
  #atGrid(): void {
    const frame = this.#frame;
    const { goOn, onMemory } = this.parting;
    // It goes on: the lead.
    const own = goOn?.memory && this.#part === goOn.part ? this.#lead.readAfter.indexOf(frame - this.startFrame) : -1;
    if (own >= 0) this.#now.rememberStage(own, new Memory(goOn!.memory![own]!));
    const start = this.#beginOf(this.#part + 1) - this.#lead.frames;
    if (frame === start) {
      this.#next = this.#begin(start);
      this.#memory = [];
    }
    const stage = this.#lead.readAfter.indexOf(frame - start);
    if (stage >= 0) {
      const memory = new Memory();
      this.#now.rememberStage(stage, memory);
      this.#memory.push(memory.bytes);
      this.#next!.rememberStage(stage, new Memory(memory.bytes));
    }
    if (frame === start + this.#lead.frames) onMemory?.(this.#part + 1, this.#memory);
  }

  reset(): void {
    throw new Error('A parted chain is made for one stream.');
  }
}

export const partedChain = (context: ProcessorContext, spec: ChainSpec, parting: Parting): PartedChain<Chain> =>
  new PartedChain((startFrame) => new Chain({ ...context, startFrame }, spec), context.sampleRateHz, context.channels, parting);

/** What the source is compared through, parted likewise. */
export const partedTurn = (context: ProcessorContext, spec: ChainSpec, parting: Parting): PartedChain<Turn> =>
  new PartedChain((startFrame) => new Turn({ ...context, startFrame }, spec), context.sampleRateHz, context.channels, parting);

/** What several chains of one render remember at the beginnings of its parts: of its tracks, then of the whole. */
export class PartNotes {
  readonly #known = new Map<number, (PartMemory | undefined)[]>();

  /** @param goOn a part that is gone on with, and what each chain remembers there */
  constructor(private readonly goOn?: { readonly part: number; readonly memories: readonly (PartMemory | undefined)[] }) {}

  /** For one of the chains. */
  parting(chain: number, partFrames: number, beforeFrames = 0): Parting {
    const { goOn } = this;
    return {
      partFrames,
      beforeFrames,
      goOn: goOn && { part: goOn.part, memory: goOn.memories[chain] },
      onMemory: (part, memory) => {
        const known = this.#known.get(part) ?? [];
        known[chain] = memory;
        this.#known.set(part, known);
      },
    };
  }

  /** What is needed to go on at a part that is about to begin, of each chain whose sound goes so far; what was known of earlier ones is forgotten. */
  take(part: number): readonly (PartMemory | undefined)[] {
    const known = this.#known.get(part) ?? [];
    this.#known.delete(part);
    return known;
  }
}

/** Tracks of a mix begin their parts so much earlier than the whole does: its chain hears its lead of them. */
export const mixLeadFrames = (partFrames: number): number => GRID_FRAMES * Math.ceil(partFrames / (10 * GRID_FRAMES));

/** Whether a chain on the whole needs no more of a lead than that. */
export const fitsMixLead = (context: ProcessorContext, whole: ChainSpec, partFrames: number): boolean =>
  leadOf(new Chain(context, whole).stages, context.sampleRateHz).frames <= mixLeadFrames(partFrames);
