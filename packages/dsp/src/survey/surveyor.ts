import type { KernelModule } from '../kernels/instance.js';
import type { PlanarBlock } from '../processor.js';
import { MAX_BLOCK_FRAMES } from '../processor.js';
import { ChannelSurvey } from './channel-survey.js';
import { ChannelPair } from './flaws.js';
import { findingOrder, SURVEY_VERSION, type Finding, type FindingFacts, type Survey } from './findings.js';
import { channelFacts, contentFacts, type Fact } from './judge-findings.js';
import { suggestionFor } from './suggest.js';

/**
 * Measures the condition of a recording in one pass. Feed it blocks of any length, then ask for the survey. Every
 * channel is listened to by itself; what concerns the voice is told of the channel with the most of it.
 */
export class Surveyor {
  readonly #channels: ChannelSurvey[];
  readonly #pair: ChannelPair | null;
  #frames = 0;

  constructor(
    kernels: KernelModule,
    private readonly sampleRateHz: number,
    channels: number,
  ) {
    this.#channels = Array.from({ length: channels }, () => new ChannelSurvey(kernels, sampleRateHz));
    this.#pair = channels === 2 ? new ChannelPair() : null;
  }

  process(block: PlanarBlock, frames: number): void {
    this.#frames += frames;
    for (let from = 0; from < frames; from += MAX_BLOCK_FRAMES) {
      const count = Math.min(MAX_BLOCK_FRAMES, frames - from);
      const part = block.map((samples) => samples.subarray(from, from + count));
      this.#channels.forEach((channel, c) => channel.process(part[c]!, count));
      this.#pair?.process(part[0]!, part[1]!, count);
    }
  }

  /** The survey of all that was heard. Call it once. */
  finish(): Survey {
    const seconds = this.#frames / this.sampleRateHz;
    for (const channel of this.#channels) channel.finish();
    const facts: Fact[] = [...channelFacts(this.#channels, this.#pair)];
    const loudest = [...this.#channels].sort((a, b) => b.flaws.rmsDbfs - a.flaws.rmsDbfs)[0];
    if (loudest) facts.push(...contentFacts(loudest, seconds));
    const known = facts.map(([fact]) => fact);
    const findings = facts.map(([fact, certainty]): Finding => ({
      ...fact,
      certainty: Math.round(certainty * 100) / 100,
      suggestion: suggestionFor(fact, known),
    }));
    const place = ({ kind }: FindingFacts): number => findingOrder.indexOf(kind);
    return { version: SURVEY_VERSION, seconds, findings: findings.sort((a, b) => place(a) - place(b)) };
  }
}
