import { createBlock, FeedbackGuard, LiveChain, type ChainSpec, type NoiseProfile, type PlanarBlock } from '@euphonos/dsp';
import { LIVE_PROCESSOR, type LiveCommand, type LiveMeters, type LiveOptions, type LiveReport } from './live-protocol.js';

const QUANTUM_FRAMES = 128;
/** A report every 12 quanta: 32 ms at 48 kHz. */
const REPORT_QUANTA = 12;
/** Captured frames go out in pieces of so many quanta. */
const CAPTURE_QUANTA = 4;
const FADE_SECONDS = 0.02;

/** A chain that sounds, or comes in or goes. */
interface Sounding {
  readonly chain: LiveChain;
  gain: number;
}

/** The microphone through the live chain to the headphones, in the audio thread. */
class LiveProcessor extends AudioWorkletProcessor {
  readonly #options: LiveOptions;
  readonly #guard: FeedbackGuard;
  readonly #in = createBlock(1, QUANTUM_FRAMES);
  readonly #made = createBlock(1, QUANTUM_FRAMES);
  readonly #out = createBlock(1, QUANTUM_FRAMES);
  #spec: ChainSpec = { treatments: [] };
  #profile: NoiseProfile | null = null;
  #now: Sounding;
  #before: Sounding | null = null;
  #hear = false;
  #heard = 0;
  #capture: MessagePort | null = null;
  #captured: Float32Array[][] = [];
  #quanta = 0;
  #squaresIn = 0;
  #squaresOut = 0;
  #heldDb = 0;
  #probe: { readonly sweep: Float32Array; readonly heard: Float32Array; at: number } | null = null;

  constructor({ processorOptions }: { processorOptions: unknown }) {
    super();
    this.#options = processorOptions as LiveOptions;
    this.#guard = new FeedbackGuard(this.#options.kernels, sampleRate);
    this.#now = { chain: this.#make(), gain: 1 };
    this.port.onmessage = ({ data }) => this.#take(data as LiveCommand);
  }

  #make(): LiveChain {
    return new LiveChain(
      { sampleRateHz: sampleRate, channels: 1, kernels: this.#options.kernels, ...(this.#profile && { noiseProfile: this.#profile }) },
      this.#spec,
    );
  }

  #take(command: LiveCommand): void {
    switch (command.type) {
      case 'chain': {
        const sameNoise = command.profile === this.#profile;
        this.#spec = command.spec;
        if (sameNoise && this.#now.chain.setParameters(command.spec)) return;
        this.#profile = command.profile;
        this.#before = this.#now;
        this.#now = { chain: this.#make(), gain: 0 };
        return;
      }
      case 'hear':
        this.#hear = command.on;
        return this.#guard.reset();
      case 'capture-to':
        this.#capture = command.port;
        return;
      case 'probe':
        this.#probe = { sweep: command.sweep, heard: new Float32Array(command.listenFrames), at: 0 };
    }
  }

  #tell(report: LiveReport, transfer: Transferable[] = []): void {
    this.port.postMessage(report, transfer);
  }

  /** The channel that is recorded, into `#in`: of both, their mean. */
  #pick(input: readonly Float32Array[]): void {
    const to = this.#in[0]!;
    const [first, second] = input;
    if (!first) return void to.fill(0);
    const { channel } = this.#options;
    if (channel === 'both' && second) for (let n = 0; n < QUANTUM_FRAMES; n++) to[n] = (first[n]! + second[n]!) / 2;
    else to.set(channel === 'second' && second ? second : first);
  }

  #captureFrames(input: readonly Float32Array[]): void {
    if (!this.#capture || input.length === 0) return;
    this.#captured.push(input.map((samples) => samples.slice()));
    if (this.#captured.length < CAPTURE_QUANTA) return;
    const channels = input.map((_, c) => {
      const whole = new Float32Array(this.#captured.length * QUANTUM_FRAMES);
      this.#captured.forEach((part, i) => whole.set(part[c] ?? part[0]!, i * QUANTUM_FRAMES));
      return whole;
    });
    this.#captured = [];
    // The place on the clock of the audio thread: a quantum that was never called for is missing in it.
    const atMicroseconds = ((currentFrame - (CAPTURE_QUANTA - 1) * QUANTUM_FRAMES) / sampleRate) * 1e6;
    this.#capture.postMessage(
      { channels, atMicroseconds },
      channels.map(({ buffer }) => buffer),
    );
  }

  /** The chain that comes in over the one that goes. */
  #run(input: PlanarBlock): void {
    const out = this.#out[0]!;
    const step = 1 / (FADE_SECONDS * sampleRate);
    this.#now.chain.process(input, this.#made, QUANTUM_FRAMES);
    const made = this.#made[0]!;
    if (!this.#before) return void out.set(made);
    let gain = this.#now.gain;
    for (let n = 0; n < QUANTUM_FRAMES; n++) out[n] = made[n]! * Math.min(1, gain + n * step);
    this.#before.chain.process(input, this.#made, QUANTUM_FRAMES);
    for (let n = 0; n < QUANTUM_FRAMES; n++) out[n]! += made[n]! * Math.max(0, 1 - gain - n * step);
    gain = Math.min(1, gain + QUANTUM_FRAMES * step);
    this.#now.gain = gain;
    if (gain >= 1) this.#before = null;
  }

  process([input]: Float32Array[][], [output]: Float32Array[][]): boolean {
    if (!output?.[0]) return true;
    this.#pick(input ?? []);
    if (this.#options.capture) this.#captureFrames(input ?? []);
    this.#run(this.#in);
    const out = this.#out[0]!;
    const hz = this.#hear ? this.#guard.process(this.#in[0]!) : null;
    if (hz !== null) {
      this.#hear = false;
      this.#tell({ type: 'feedback', hz });
    }
    const step = 1 / (FADE_SECONDS * sampleRate);
    for (let n = 0; n < QUANTUM_FRAMES; n++) {
      this.#heard = this.#hear ? Math.min(1, this.#heard + step) : Math.max(0, this.#heard - 2 * step);
      this.#squaresIn += this.#in[0]![n]! ** 2;
      this.#squaresOut += out[n]! ** 2;
      out[n]! *= this.#heard;
    }
    this.#addProbe(out);
    for (const samples of output) samples.set(out);
    this.#heldDb = Math.min(this.#heldDb, this.#now.chain.nowDb('limiter') ?? 0);
    if (++this.#quanta % REPORT_QUANTA === 0) this.#report();
    return true;
  }

  #addProbe(out: Float32Array): void {
    const probe = this.#probe;
    if (!probe) return;
    const { sweep, heard } = probe;
    const count = Math.min(QUANTUM_FRAMES, heard.length - probe.at);
    heard.set(this.#in[0]!.subarray(0, count), probe.at);
    for (let n = 0; n < QUANTUM_FRAMES && probe.at + n < sweep.length; n++) out[n]! += sweep[probe.at + n]!;
    probe.at += count;
    if (probe.at < heard.length) return;
    this.#probe = null;
    this.#tell({ type: 'probed', heard }, [heard.buffer]);
  }

  #report(): void {
    const { chain } = this.#now;
    const db = (squares: number): number => 10 * Math.log10(squares / (REPORT_QUANTA * QUANTUM_FRAMES) + 1e-14);
    const meters: LiveMeters = {
      inDbfs: db(this.#squaresIn),
      outDbfs: db(this.#squaresOut),
      gateDb: chain.nowDb('gate'),
      reductionDb: chain.nowDb('noise-reduction'),
      compressorDb: chain.nowDb('compressor'),
      limiterDb: chain.nowDb('limiter'),
      heldDb: this.#heldDb,
    };
    this.#squaresIn = this.#squaresOut = this.#heldDb = 0;
    this.#tell({ type: 'meters', meters, chainFrames: chain.latencyFrames, heard: this.#hear });
  }
}

registerProcessor(LIVE_PROCESSOR, LiveProcessor);
