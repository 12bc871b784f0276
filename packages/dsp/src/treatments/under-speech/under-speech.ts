import { copyFrames } from '../../copy-frames.js';
import { Cascade } from '../../filters/cascade.js';
import { shelfSection } from '../../filters/sections.js';
import type { PlanarBlock, ProcessorContext } from '../../processor.js';
import { dbToGain, powerToDb } from '../../units.js';
import { defineTreatment, type TreatmentProcessor } from '../definition.js';
import { GLIDE_DB } from '../span-gains.js';
import { choices, countedTalk, parameters, talkList, type Values } from './settings.js';
import { SpeechCurve } from './speech-curve.js';

/** Between these frequencies (half of it, in dB, there) the voice's bands give way. Common practice, no source. */
const VOICE_HZ = { low: 160, high: 6000 } as const;
const SHELF_Q = Math.SQRT1_2;
/** Shelves move so often, counted from the beginning of the session. */
const STEP_FRAMES = 16;

/** Only the depth is moved while it sounds. */
const keyOf = ({ depthDb: _, ...rest }: Values): string => JSON.stringify(rest);

/**
 * Lowers a bed while somebody speaks. Where it does not, nothing is touched, not by a bit. The voice's bands alone: all of it is lowered, and
 * a shelf on either side brings the rest back up (R. Bristow-Johnson, Cookbook formulae for audio EQ), so that in between it is the depth.
 */
class UnderSpeech implements TreatmentProcessor<typeof parameters> {
  readonly latencyFrames = 0;
  readonly #curve: SpeechCurve;
  readonly #key: string;
  readonly #shelves: readonly Cascade[] | null;
  /** Depth that the shelves are set to. */
  #shelvedDb = 0;
  /** As it is heard, and as it is set. */
  #depthDb: number;
  #wishedDb: number;
  #at = 0;
  #next = 0;
  #power = 0;

  constructor(
    private readonly context: ProcessorContext,
    values: Values,
  ) {
    const { sampleRateHz, channels, kernels } = context;
    const frames = (ms: number): number => Math.round((ms / 1000) * sampleRateHz);
    this.#curve = new SpeechCurve(countedTalk(values), sampleRateHz, {
      aheadFrames: frames(values.aheadMs),
      attackFrames: frames(values.attackMs),
      holdFrames: frames(values.holdMs),
      releaseFrames: frames(values.releaseMs),
    });
    this.#shelves =
      values['band'] === 'voice' ? Array.from({ length: channels }, () => new Cascade(kernels, shelves(0, sampleRateHz))) : null;
    this.#key = keyOf(values);
    this.#depthDb = this.#wishedDb = values.depthDb;
    this.reset();
  }

  setParameters(values: Values): boolean {
    if (keyOf(values) !== this.#key) return false;
    this.#wishedDb = values.depthDb;
    return true;
  }

  reset(): void {
    this.#depthDb = this.#wishedDb;
    this.#shelves?.forEach((shelf) => shelf.reset());
    this.#goTo(this.context.startFrame ?? 0);
  }

  locate(frame: number): void {
    if (frame !== this.#at) this.#goTo(frame);
  }

  #goTo(frame: number): void {
    this.#at = frame;
    this.#power = 0;
    this.#next = this.#curve.after(frame);
    this.#setShelves(this.#lowered(frame - (frame % STEP_FRAMES)));
  }

  /** Decibels in the middle of the step that begins at a frame. */
  #lowered(frame: number): number {
    const middle = frame + STEP_FRAMES / 2;
    return this.#depthDb * this.#curve.at(middle, this.#curve.after(middle));
  }

  #setShelves(depthDb: number): void {
    if (!this.#shelves || depthDb === this.#shelvedDb) return;
    this.#shelvedDb = depthDb;
    const sections = shelves(depthDb, this.context.sampleRateHz);
    for (const shelf of this.#shelves) shelf.set(sections);
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    for (let c = 0; c < input.length; c++) if (input[c] !== output[c]) copyFrames(input[c]!, 0, output[c]!, 0, frames);
    for (let n = 0; n < frames;) {
      const count = Math.min(frames - n, STEP_FRAMES - (this.#at % STEP_FRAMES));
      this.#step(output, n, count);
      n += count;
    }
  }

  /** Frames [n, n + count) of a block: within one step of the grid. */
  #step(block: PlanarBlock, n: number, count: number): void {
    const start = this.#at;
    const end = start + count;
    this.#at = end;
    const { stretches } = this.#curve;
    if (this.#shelves && start % STEP_FRAMES === 0) this.#setShelves(this.#lowered(start));
    if (this.#curve.freeFrames(start, this.#next) >= count) this.#depthDb = this.#wishedDb;
    else
      for (let frame = start; frame < end; frame++) {
        while (this.#next < stretches.length && stretches[this.#next]!.to <= frame) this.#tell(stretches[this.#next++]!);
        if (this.#depthDb !== this.#wishedDb) this.#glide();
        const gain = dbToGain(-this.#depthDb * this.#curve.at(frame, this.#next));
        const within = this.#next < stretches.length && stretches[this.#next]!.from <= frame;
        for (let c = 0; c < block.length; c++) {
          const at = n + frame - start;
          const x = block[c]![at]!;
          if (within) this.#power += x * x;
          block[c]![at] = x * gain;
        }
      }
    this.#shelves?.forEach((shelf, c) => shelf.process(block[c]!, n, n + count));
  }

  #glide(): void {
    const off = this.#wishedDb - this.#depthDb;
    this.#depthDb = Math.abs(off) <= GLIDE_DB ? this.#wishedDb : this.#depthDb + Math.sign(off) * GLIDE_DB;
  }

  #tell({ from, to }: { readonly from: number; readonly to: number }): void {
    const { context } = this;
    const levelDbfs = powerToDb(this.#power / Math.max(1, (to - from) * context.channels) + 1e-20);
    this.#power = 0;
    const startFrame = Math.max(0, from);
    context.onEvent?.({ kind: 'under-speech', channel: 0, startFrame, endFrame: to, amountDb: this.#depthDb, levelDbfs });
  }
}

const shelves = (depthDb: number, sampleRateHz: number) => [
  shelfSection('low', VOICE_HZ.low, depthDb, SHELF_Q, sampleRateHz),
  shelfSection('high', Math.min(VOICE_HZ.high, 0.4 * sampleRateHz), depthDb, SHELF_Q, sampleRateHz),
];

export const underSpeech = defineTreatment({
  kind: 'under-speech',
  title: 'Under speech',
  sentence: 'For a bed: turned down while somebody speaks, back when they have done. It follows who talks, not how loud it is.',
  parameters,
  choices,
  lists: { talk: talkList },
  needsNoiseProfile: false,
  idle: (values) => values.depthDb === 0 || countedTalk(values).length === 0,
  summary: (values) => {
    const seconds = countedTalk(values).reduce((sum, { startSeconds, endSeconds }) => sum + endSeconds - startSeconds, 0);
    return seconds === 0 ? 'nobody yet' : `−${values.depthDb} dB · ${seconds.toFixed(0)} s of speech`;
  },
  create: (context, values) => new UnderSpeech(context, values),
  live: { note: 'Who speaks is found in what was recorded: it is heard there.' },
});
