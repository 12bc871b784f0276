import { copyFrames } from '../../copy-frames.js';
import { Cascade } from '../../filters/cascade.js';
import { KernelInstance } from '../../kernels/instance.js';
import type { Memory } from '../../memory.js';
import { MAX_BLOCK_FRAMES, type PlanarBlock, type ProcessorContext } from '../../processor.js';
import { dbToGain, dbToPower, gainToDb, msToFrames } from '../../units.js';
import type { ListRow, TreatmentProcessor } from '../definition.js';
import { voiceBand } from '../listens.js';
import { TalkKey } from './talk-key.js';
import { DETECTOR_MS, knowsTalk, lateMsOf, type GateSpecs, type GateValues } from './settings.js';

type Gate = (
  frames: number,
  aheadFrames: number,
  detectorShare: number,
  openPower: number,
  closePower: number,
  floorGain: number,
  rise: number,
  fall: number,
  holdFrames: number,
  keyed: number,
) => void;

/**
 * Gate with hysteresis. The level is the mean square of the louder channel over about 6 ms; all channels
 * get the same gain, so that the stereo image stands still. The gain moves in equal dB steps: attack and
 * release are the times for the whole range.
 */
export class GateProcessor implements TreatmentProcessor<GateSpecs> {
  readonly latencyFrames: number;
  readonly #sampleRateHz: number;
  readonly #channels: number;
  readonly #detectorShare: number;
  readonly #lines: Float32Array;
  readonly #keys: Float32Array;
  /** What the detector hears, when that is not everything; and room to filter it in. */
  readonly #bands: Cascade[] | null;
  readonly #band: Float32Array;
  readonly #talk: TalkKey | null;
  readonly #quiet: unknown;
  readonly #listens: string;
  readonly #stride: number;
  readonly #gated: Float32Array;
  readonly #gains: Float32Array;
  readonly #gate: Gate;
  readonly #close: (floorGain: number) => void;
  readonly #state: readonly { value: number }[];

  #openPower = 0;
  #closePower = 0;
  #floorGain = 1;
  #awayGain = 0;
  #rise = 1;
  #fall = 1;
  #holdFrames = 0;
  /** How far before the frame that goes out the detector listens. */
  #aheadFrames = 0;

  /** Where it closed last, in frames of the recording; null while it is open. */
  #closedFrom: number | null = null;
  #at = 0;

  constructor(
    private readonly context: ProcessorContext,
    values: GateValues,
    /** How late it is, and so how far it can hear ahead; left out, as the look-ahead asks. */
    private readonly lateMs?: number,
  ) {
    const { sampleRateHz, channels, kernels } = context;
    this.#sampleRateHz = sampleRateHz;
    this.#channels = channels;
    this.latencyFrames = msToFrames(lateMs ?? lateMsOf(values.lookAheadMs), sampleRateHz);
    this.#detectorShare = 1 - Math.exp(-1000 / (DETECTOR_MS * sampleRateHz));
    const kernel = new KernelInstance(kernels, 'gateSetUp', this.latencyFrames, channels);
    this.#stride = this.latencyFrames + MAX_BLOCK_FRAMES + 4;
    this.#lines = kernel.floats('gateLines', this.#stride * channels);
    this.#keys = kernel.floats('gateKeys', this.#stride * channels);
    this.#listens = values['listens'] as string;
    this.#talk = knowsTalk(this.#listens) ? new TalkKey(values['quiet'] as readonly ListRow[], sampleRateHz) : null;
    this.#quiet = values['quiet'];
    this.#bands =
      this.#listens === 'voice' || this.#listens === 'talk'
        ? Array.from({ length: channels }, () => new Cascade(kernels, voiceBand(sampleRateHz)))
        : null;
    this.#band = new Float32Array(MAX_BLOCK_FRAMES);
    this.#gated = kernel.floats('gated', MAX_BLOCK_FRAMES * channels);
    this.#gains = kernel.floats('gateGains', MAX_BLOCK_FRAMES);
    this.#gate = kernel.call('gateProcess');
    this.#close = kernel.call('gateReset');
    this.#state = ['gatePower', 'gateGain', 'gateOpen', 'gateHeldFrames'].map((name) => kernel.number(name));
    this.setParameters(values);
    this.reset();
  }

  setParameters(values: GateValues): boolean {
    if (
      (this.lateMs === undefined && msToFrames(lateMsOf(values.lookAheadMs), this.#sampleRateHz) !== this.latencyFrames) ||
      values['listens'] !== this.#listens ||
      (this.#talk && values['quiet'] !== this.#quiet && JSON.stringify(values['quiet']) !== JSON.stringify(this.#quiet))
    )
      return false;
    const frames = (ms: number): number => msToFrames(ms, this.#sampleRateHz);
    this.#openPower = dbToPower(values.openDb);
    this.#closePower = dbToPower(values.closeDb);
    this.#floorGain = dbToGain(-values.rangeDb);
    this.#awayGain = dbToGain(-values.awayDb);
    // With no range at all a closed gain may still stand lower, from before: it comes back within a few ms.
    this.#rise = values.rangeDb === 0 ? 1.001 : dbToGain(values.rangeDb / Math.max(1, frames(values.attackMs)));
    this.#fall = values.rangeDb === 0 ? 0.999 : dbToGain(-values.rangeDb / Math.max(1, frames(values.releaseMs)));
    this.#holdFrames = frames(values.holdMs);
    this.#aheadFrames = Math.min(this.latencyFrames, frames(values.lookAheadMs));
    return true;
  }

  reset(): void {
    this.#close(this.#floorGain);
    for (const band of this.#bands ?? []) band.reset();
    this.#talk?.locate(this.context.startFrame ?? 0);
    this.#closedFrom = null;
    this.#at = (this.context.startFrame ?? 0) - this.latencyFrames;
  }

  get nowDb(): number {
    return gainToDb(this.#state[1]!.value);
  }

  remember(memory: Memory): void {
    for (const cell of this.#state) memory.cell(cell);
  }

  locate(frame: number): void {
    this.#talk?.locate(frame);
  }

  process(input: PlanarBlock, output: PlanarBlock, frames: number): void {
    for (let c = 0; c < this.#channels; c++) copyFrames(input[c]!, 0, this.#lines, this.#stride * c + this.latencyFrames, frames);
    if (this.#keyed) this.#listen(input, frames);
    this.#gate(
      frames,
      this.#aheadFrames,
      this.#detectorShare,
      this.#openPower,
      this.#closePower,
      this.#floorGain,
      this.#rise,
      this.#fall,
      this.#holdFrames,
      this.#keyed ? 1 : 0,
    );
    if (this.context.onEvent) this.#tell(frames);
    for (let c = 0; c < this.#channels; c++) copyFrames(this.#gated, MAX_BLOCK_FRAMES * c, output[c]!, 0, frames);
  }

  /** Whether the detector hears something else than what goes out. */
  get #keyed(): boolean {
    return this.#bands !== null || this.#talk !== null;
  }

  /** What decides of each channel, to where the detector hears it. */
  #listen(input: PlanarBlock, frames: number): void {
    for (let c = 0; c < this.#channels; c++) {
      copyFrames(input[c]!, 0, this.#band, 0, frames);
      this.#bands?.[c]!.process(this.#band, 0, frames);
      this.#talk?.apply(this.#band, 0, frames, this.#closePower, this.#awayGain);
      copyFrames(this.#band, 0, this.#keys, this.#stride * c + this.latencyFrames, frames);
    }
    this.#talk?.advance(frames);
  }

  /** Tells every stretch that it was closed for (half-way down and further), when it opens again. */
  #tell(frames: number): void {
    const half = Math.sqrt(this.#floorGain);
    for (let n = 0; n < frames; n++, this.#at++) {
      const closed = this.#gains[n]! <= half && this.#floorGain < 1;
      if (closed && this.#closedFrom === null) this.#closedFrom = Math.max(0, this.#at);
      else if (!closed && this.#closedFrom !== null) {
        this.context.onEvent!({
          kind: 'gate',
          channel: 0,
          startFrame: this.#closedFrom,
          endFrame: this.#at,
          amountDb: -20 * Math.log10(this.#floorGain),
        });
        this.#closedFrom = null;
      }
    }
  }
}
