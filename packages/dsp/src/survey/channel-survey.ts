import { parseChain } from '../chain/chain-spec.js';
import type { KernelModule } from '../kernels/instance.js';
import type { Processor, TreatmentEvent } from '../processor.js';
import { MAX_BLOCK_FRAMES } from '../processor.js';
import { treatmentOf, type TreatmentKind } from '../treatments/registry.js';
import { Features } from './features.js';
import { Flaws } from './flaws.js';
import { LineFinder } from './hum-lines.js';

const SURVEY_SENSITIVITY = 14;

/** Everything that is heard of one channel while it streams by. */
export class ChannelSurvey {
  readonly features: Features;
  readonly flaws: Flaws;
  readonly lines: LineFinder;
  readonly events: Readonly<Record<'clicks' | 'plosives', TreatmentEvent[]>> = { clicks: [], plosives: [] };
  readonly #detectors: Processor[];
  readonly #away = [new Float32Array(MAX_BLOCK_FRAMES)];

  constructor(
    kernels: KernelModule,
    readonly sampleRateHz: number,
  ) {
    // The lines are found in the slow copy that the features make.
    this.features = new Features(kernels, sampleRateHz, (x) => this.lines.take(x));
    this.lines = new LineFinder(kernels, this.features.slowRateHz);
    this.flaws = new Flaws(sampleRateHz);
    // What a treatment would mend is what is found; of clicks only those that are surest, since talk has a few that are not.
    const detector = (kind: TreatmentKind, found: TreatmentEvent[], settings: object = {}): Processor =>
      treatmentOf(kind).create(
        { sampleRateHz, channels: 1, kernels, onEvent: (event) => found.push(event) },
        parseChain({ treatments: [{ kind, ...settings }] }).treatments[0] as never,
      );
    this.#detectors = [
      detector('clicks', this.events.clicks, { sensitivity: SURVEY_SENSITIVITY }),
      detector('plosives', this.events.plosives),
    ];
  }

  process(x: Float32Array, frames: number): void {
    this.features.process(x, frames);
    this.flaws.process(x, frames);
    for (const detector of this.#detectors) detector.process([x], this.#away, frames);
  }

  /** Brings out what is still inside of the detectors. */
  finish(): void {
    const silence = new Float32Array(MAX_BLOCK_FRAMES);
    for (const detector of this.#detectors)
      for (let left = detector.latencyFrames; left > 0; left -= MAX_BLOCK_FRAMES)
        detector.process([silence], this.#away, Math.min(left, MAX_BLOCK_FRAMES));
  }
}
