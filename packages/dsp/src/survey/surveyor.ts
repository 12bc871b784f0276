import type { KernelModule } from '../kernels/instance.js';
import type { PlanarBlock } from '../processor.js';
import { MAX_BLOCK_FRAMES } from '../processor.js';
import { bleedOf } from './bleed.js';
import { ChannelSurvey } from './channel-survey.js';
import { ChannelPair } from './flaws.js';
import { findingOrder, SURVEY_VERSION, type Finding, type FindingFacts, type Survey } from './findings.js';
import { channelFacts, contentFacts, DEAD_DB, gapFacts, IDENTICAL_DB, SILENT_DBFS, type Fact, type Heard } from './judge-findings.js';
import { mergeChannels, type PlacedFact } from './merge-channels.js';
import { withoutBleed } from './talk.js';
import { withSuggestions } from './findings-for.js';

/** Of the frames in which anybody talks, so many have talk on all channels where these are of one scene. */
const TOGETHER_SHARE = 0.75;
/** Common practice, no source: levels of seconds of talk are sure, whose talk it is a little less. */
const BLEED_CERTAINTY = 0.8;

/**
 * Measures the condition of a recording in one pass. Feed it blocks of any length, then ask for the survey. Every
 * channel is listened to by itself, and each finding says which channel has it.
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
    const placed = [...channelFacts(this.#channels, this.#pair).map(toAll), ...this.#contents(seconds)];
    const findings: Finding[] = withSuggestions(
      placed.map(({ fact, certainty, channel }) => ({
        ...fact,
        ...(channel === undefined ? {} : { channel }),
        certainty: Math.round(certainty * 100) / 100,
      })),
    );
    const ofAll = ({ channel = 0 }: Finding): number => channel;
    const place = ({ kind }: FindingFacts): number => findingOrder.indexOf(kind);
    return { version: SURVEY_VERSION, seconds, findings: findings.sort((a, b) => place(a) - place(b) || ofAll(a) - ofAll(b)) };
  }
  /**
   * What the channels hold. Nobody talks, and noise stands alone, only where nobody talks on any channel; where the channels differ
   * in that, each is told by itself too, for the tracks that they become.
   */
  #contents(seconds: number): PlacedFact[] {
    const judged = this.#sounding().map(({ survey, channel }) => ({ channel, ...contentFacts(survey, seconds) }));
    const heard = judged.flatMap(({ heard: own }) => (own ? [own] : []));
    const sameTalk = talksTogether(heard);
    const of = judged.flatMap(({ channel, heard: one }) => (one ? [channel] : []));
    const told = mergeChannels(judged, sameTalk);
    if (!sameTalk) {
      const own = withoutBleed(heard);
      for (const { into, from, db } of bleedOf(heard, own))
        told.push({ fact: { kind: 'bleed', db, from: of[from]! }, certainty: BLEED_CERTAINTY, channel: of[into] });
      own.forEach((talk, i) => (heard[i] = { ...heard[i]!, talk }));
    }
    if (heard.length === 0) return told;
    const common = gapFacts(heard, []);
    if (heard.length === 1 || sameTalk) return [...told, ...common.map(toAll)];
    const own = heard.flatMap((one, i) => {
      const others = heard.filter((other) => other !== one);
      return gapFacts([one], others).map(([fact, certainty]) => ({ fact, certainty, channel: of[i] }));
    });
    return [...told, ...common.map(toAll), ...own];
  }

  /** The channels that hold something of their own, the loudest first. */
  #sounding(): { readonly survey: ChannelSurvey; readonly channel: number }[] {
    const all = this.#channels.map((survey, c) => ({ survey, channel: c + 1 }));
    all.sort((a, b) => b.survey.flaws.rmsDbfs - a.survey.flaws.rmsDbfs);
    if (this.#pair && this.#pair.differenceDb < IDENTICAL_DB) return all.slice(0, 1);
    const loudest = all[0]?.survey.flaws.rmsDbfs ?? 0;
    return all.filter(({ survey }, i) => i === 0 || (survey.flaws.rmsDbfs > SILENT_DBFS && survey.flaws.rmsDbfs > loudest - DEAD_DB));
  }
}

const toAll = ([fact, certainty]: Fact): PlacedFact => ({ fact, certainty, channel: undefined });

/** Whether one and the same talk is heard on all of them: most frames with talk on one have it on the others. */
function talksTogether(heard: readonly Heard[]): boolean {
  if (heard.length < 2) return true;
  let any = 0;
  let all = 0;
  for (let i = 0; i < heard[0]!.talk.isTalk.length; i++) {
    const count = heard.reduce((sum, { talk }) => sum + talk.isTalk[i]!, 0);
    if (count > 0) any++;
    if (count === heard.length) all++;
  }
  return all >= TOGETHER_SHARE * any;
}
