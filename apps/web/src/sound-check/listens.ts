import type { KernelModule, Listen, ListenState } from '@euphonos/dsp';
import { loadKernels } from '../audio/kernels.js';
import type { DeskParts } from './desk-parts.js';
import { keepNoise } from './keep-noise.js';
import { loopOfSpeech } from './loop-of-speech.js';
import { SpeechLoop } from './speech-loop.js';

/** What the simulated person does meanwhile. */
const PERFORMS: Readonly<Record<Listen, 'silence' | 'usual' | 'talk'>> = { silence: 'silence', usual: 'usual', speech: 'talk' };

/** The three listens of a desk, what is measured of them, and what was just said in a loop. */
export class Listens {
  /** The noise of the silence, kept; null while there is none. */
  profileId: string | null = null;
  #loop: SpeechLoop | null = null;
  #floorDbfs: number | null = null;

  constructor(
    private readonly desk: DeskParts,
    private readonly onChecked: () => void,
  ) {}

  /** Begins one; null ends the one that runs. */
  listen(listen: Listen | null): void {
    this.desk.set({ listening: null });
    this.stopPair();
    if (listen) this.desk.microphone()?.perform(PERFORMS[listen]);
    const floorDbfs = this.#floorDbfs;
    this.desk.tellRecorder({ type: 'listen', listen, ...(floorDbfs === null ? {} : { floorDbfs }) });
  }

  /** How the one that runs stands; with all that is needed it is measured. */
  heardSoFar(listen: Listen, state: ListenState): void {
    if (!state.enough) return this.desk.set({ listening: { listen, state } });
    const { meter, heard: before } = this.desk.state();
    if (listen === 'silence') this.#floorDbfs = meter?.rmsDbfs ?? null;
    const heard = new Set([...before, listen]);
    this.desk.set({ listening: null, heard });
    this.desk.microphone()?.perform('silence');
    if (heard.has('silence') && heard.has('speech')) this.desk.tellRecorder({ type: 'heard', listens: ['silence', 'usual', 'speech'] });
  }

  async measure(heard: Partial<Record<Listen, Float32Array>>): Promise<void> {
    const { silence, speech, usual } = heard;
    const microphone = this.desk.microphone();
    if (!silence || !speech || !microphone) return;
    this.desk.set({ checking: true });
    const { compute } = this.desk;
    const rate = microphone.source.sampleRateHz;
    const { startFrame, endFrame } = loopOfSpeech(speech, rate);
    try {
      const kernels = (await loadKernels()) as KernelModule;
      const check = await compute.check(kernels, rate, { silence, speech, usual: usual ?? null });
      // Of a microphone that was exchanged meanwhile it says nothing.
      if (microphone !== this.desk.microphone()) return this.desk.set({ checking: false });
      this.#loop = new SpeechLoop(
        microphone,
        speech.slice(startFrame, endFrame),
        async (spec, profile, sound) => compute.treat(kernels, rate, spec, profile, sound),
        this.desk.set,
      );
      this.desk.set({ check, checking: false, chain: check.chain });
      this.onChecked();
      this.profileId = await keepNoise(check.profile, this.desk.state().facts?.label ?? 'Sound check');
    } catch (error) {
      this.desk.set({ checking: false, problem: `The listens could not be measured: ${(error as Error).message}` });
    }
  }

  /** What was just said, over and over, as it came or through the chain. */
  async playPair(which: 'before' | 'after'): Promise<void> {
    await this.#loop?.play(which, () => this.desk.state().chain, this.desk.state().check?.profile ?? null);
  }

  /** The chain was changed: what is heard of it is made anew. */
  chainMoved(): void {
    if (this.#loop?.playing) void this.playPair(this.desk.state().pair ?? 'after');
  }

  stopPair(): void {
    const { pair, pairBusy } = this.desk.state();
    if (pair || pairBusy) this.#loop?.stop();
  }

  /** The microphone goes, and with it what plays through it. */
  microphoneGoes(): void {
    this.stopPair();
    this.#loop = null;
  }
}
