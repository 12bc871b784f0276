import { createBlock, MAX_BLOCK_FRAMES, type PlanarBlock, type Processor, type ProcessorContext } from '../processor.js';
import type { Memory } from '../memory.js';
import { stageFacts, type StageFacts, type TreatmentProcessor } from '../treatments/definition.js';
import { findTreatment } from '../treatments/registry.js';
import { parametersOf, type ChainSpec, type TreatmentSettings } from './chain-spec.js';
import { moveStages } from './move-stages.js';

const turning = ({ treatments }: ChainSpec): readonly TreatmentSettings[] =>
  treatments.filter(({ kind, bypassed }) => !bypassed && findTreatment(kind)!.turn !== undefined);

/**
 * The source as what comes out of a chain is compared with: with the phase turned as the chain's filters turn it, and nothing
 * taken. So source = removed + result holds to the sample, and removed holds what is lost, not what is turned.
 * Its latency is its own, whatever the chain's is.
 */
export class Turn implements Processor {
  readonly latencyFrames: number;
  readonly #stages: TreatmentProcessor[];
  readonly #remembering: readonly TreatmentProcessor[];
  #settings: readonly TreatmentSettings[];

  constructor(context: Omit<ProcessorContext, 'noiseProfile'>, spec: ChainSpec) {
    this.#settings = turning(spec);
    this.#stages = this.#settings.map((settings) => findTreatment(settings.kind)!.turn!(context, parametersOf(settings)));
    this.#remembering = this.#stages.filter(({ remember }) => remember !== undefined);
    this.latencyFrames = this.#stages.reduce((sum, stage) => sum + stage.latencyFrames, 0);
  }

  /** Nothing turns: the source is compared as it is. */
  get plain(): boolean {
    return this.#stages.length === 0;
  }

  /** Moves with the chain. False when a new one is needed. */
  setParameters(spec: ChainSpec): boolean {
    const next = turning(spec);
    if (!moveStages(this.#stages, this.#settings, next)) return false;
    this.#settings = next;
    return true;
  }

  get stages(): readonly StageFacts[] {
    return this.#stages.map(stageFacts);
  }

  /** As a chain has them. */
  get rememberingStages(): number {
    return this.#remembering.length;
  }

  goOnAt(frame: number): void {
    for (const stage of this.#stages) stage.goOnAt?.(frame);
  }

  rememberStage(index: number, memory: Memory): void {
    this.#remembering[index]!.remember!(memory);
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    if (this.plain) {
      for (let c = 0; c < output.length; c++) if (input[c] !== output[c]) for (let n = 0; n < frames; n++) output[c]![n] = input[c]![n]!;
      return;
    }
    let from = input;
    for (const stage of this.#stages) {
      stage.process(from, output, frames);
      from = output;
    }
  }

  reset(): void {
    for (const stage of this.#stages) stage.reset();
  }
}

/** A stretch of sound turned as a chain turns it, in line with it. What is before and after it counts as silence. */
export function turned(context: Omit<ProcessorContext, 'noiseProfile'>, spec: ChainSpec, samples: PlanarBlock): PlanarBlock {
  const turn = new Turn(context, spec);
  if (turn.plain) return samples;
  const length = samples[0]?.length ?? 0;
  const out = samples.map(() => new Float32Array(length));
  const block = createBlock(samples.length, MAX_BLOCK_FRAMES);
  for (let at = 0; at < length + turn.latencyFrames; at += MAX_BLOCK_FRAMES) {
    const frames = Math.min(MAX_BLOCK_FRAMES, length + turn.latencyFrames - at);
    for (let c = 0; c < block.length; c++) {
      block[c]!.fill(0);
      block[c]!.set(samples[c]!.subarray(Math.min(at, length), Math.min(length, at + frames)));
    }
    turn.process(block, block, frames);
    const skip = Math.max(0, turn.latencyFrames - at);
    for (let c = 0; c < block.length; c++) if (skip < frames) out[c]!.set(block[c]!.subarray(skip, frames), at + skip - turn.latencyFrames);
  }
  return out;
}
