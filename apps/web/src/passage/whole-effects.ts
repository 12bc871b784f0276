import { judgeNoisePassage, withoutDeep, type KernelModule, type NoiseJudgement, type NoiseProfile } from '@euphonos/dsp';
import { measureEffects, profilePassages, type Span } from '@euphonos/engine';
import { MOST_MEASURED_SECONDS, type Effects } from './figures-computer.js';
import { MixedSum, type WholeMix } from './mixed-sum.js';
import { RestSound } from './rest-sound.js';

/** The chain on the whole hears so much before what is measured. */
const LEAD_SECONDS = 0.5;

/** The sum of all tracks, as the chain on the whole hears it: its noise, and what each treatment does to it. Runs in a worker. */
export class WholeEffects {
  readonly #sum: MixedSum;

  constructor(
    private readonly kernels: KernelModule,
    rest = new RestSound(kernels),
  ) {
    this.#sum = new MixedSum(rest);
  }

  /** What each treatment does, in a span of the session up to its first minute. */
  async measure(mix: WholeMix, span: Span, noiseProfile?: NoiseProfile): Promise<Effects> {
    const { channels, sampleRateHz, chain } = mix;
    const lead = Math.max(0, Math.round(span.startFrame - LEAD_SECONDS * sampleRateHz));
    const end = Math.min(span.endFrame, span.startFrame + MOST_MEASURED_SECONDS * sampleRateHz);
    const sum = await this.#sum.read(mix, lead, end);
    const context = { kernels: this.kernels, sampleRateHz, channels, startFrame: lead, ...(noiseProfile && { noiseProfile }) };
    return measureEffects(context, withoutDeep(chain), sum, span.startFrame - lead);
  }

  /** The noise of passages of the session, as it comes to the noise reduction on the whole. @throws as `profilePassages` */
  profile(mix: WholeMix, spans: readonly Span[]): Promise<NoiseProfile> {
    const { channels, sampleRateHz, chain } = mix;
    return profilePassages({ kernels: this.kernels, sampleRateHz, channels }, withoutDeep(chain), spans, (start, end) =>
      this.#sum.read(mix, start, Math.min(end, mix.lengthFrames)),
    );
  }

  /** What a span of the session would be worth as a noise passage of the whole. */
  async judge(mix: WholeMix, span: Span): Promise<NoiseJudgement> {
    return judgeNoisePassage(this.kernels, await this.#sum.read(mix, span.startFrame, span.endFrame), mix.sampleRateHz, null);
  }
}
