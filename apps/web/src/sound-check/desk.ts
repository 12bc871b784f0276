import type { TakeMarkKind } from '@euphonos/contracts';
import type { KernelModule, Listen, TreatmentSettings } from '@euphonos/dsp';
import { wrap, type Remote } from 'comlink';
import { loadKernels } from '../audio/kernels.js';
import type { LiveReport } from '../microphone/live-protocol.js';
import { Microphone, microphoneProblem, microphones, SIMULATED } from '../microphone/microphone.js';
import type { LeftTake, RecorderCommand, RecorderReport } from '../recorder/protocol.js';
import type { CheckWorker } from './check.worker.js';
import { CLOSED, type DeskState } from './desk-state.js';
import { keepNoise } from './keep-noise.js';
import { leftOnServer, settleOnServer } from './left-takes.js';
import { loopOfSpeech } from './loop-of-speech.js';
import { SpeechLoop } from './speech-loop.js';
import { takeOf } from './take-of.js';
import { TakesOfSitting } from './takes-of-sitting.js';

const COUNT_FROM = 3;
const COUNT_MS = 800;
const PERFORMS: Readonly<Record<Listen, 'silence' | 'usual' | 'talk'>> = { silence: 'silence', usual: 'usual', speech: 'talk' };

/** One sitting at a microphone: device, listens, live chain, takes. What is too fast for a store lives here, as the workbench does for a session. */
export class Desk {
  #state: DeskState = CLOSED;
  readonly #listeners = new Set<() => void>();
  readonly #recorder: Worker;
  readonly #checker: Worker;
  readonly #compute: Remote<CheckWorker>;
  readonly #sittingId = crypto.randomUUID();
  readonly #takes: TakesOfSitting;
  #microphone: Microphone | null = null;
  #profileId: string | null = null;
  #loop: SpeechLoop | null = null;
  #opened = 0;
  #closed = false;

  constructor() {
    this.#recorder = new Worker(new URL('../recorder/recorder.worker.ts', import.meta.url), { type: 'module' });
    this.#checker = new Worker(new URL('./check.worker.ts', import.meta.url), { type: 'module' });
    this.#compute = wrap<CheckWorker>(this.#checker);
    this.#recorder.onmessage = ({ data }) => this.#heard(data as RecorderReport);
    this.#takes = new TakesOfSitting(
      async (sampleRateHz, sound) => this.#compute.figures((await loadKernels()) as KernelModule, sampleRateHz, sound),
      (takes) => this.#set({ takes }),
    );
    void this.listDevices();
    navigator.mediaDevices?.addEventListener?.('devicechange', this.listDevices);
  }

  get state(): DeskState {
    return this.#state;
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  #set(change: Partial<DeskState>): void {
    this.#state = { ...this.#state, ...change };
    for (const listener of this.#listeners) listener();
  }

  #tell(command: RecorderCommand, transfer: Transferable[] = []): void {
    this.#recorder.postMessage(command, transfer);
  }

  readonly listDevices = async (): Promise<void> => {
    const devices = await microphones();
    if (this.#closed) return;
    const known = devices.some(({ id }) => id === this.#state.deviceId);
    this.#set({ devices, deviceId: known ? this.#state.deviceId : (devices[0]?.id ?? SIMULATED) });
  };

  choose(change: Partial<Pick<DeskState, 'deviceId' | 'channel'>>): void {
    this.#set(change);
    if (this.#state.status === 'open') void this.open();
  }

  async open(): Promise<void> {
    const turn = ++this.#opened;
    this.#closeMicrophone();
    this.#set({
      status: 'opening',
      problem: null,
      facts: null,
      meter: null,
      live: null,
      listening: null,
      heard: new Set(),
      roundSeconds: null,
    });
    const { deviceId, channel } = this.#state;
    try {
      const microphone = await Microphone.open(deviceId, channel, this.#onLive, () => this.#unplugged(microphone));
      if (turn !== this.#opened || this.#closed) return microphone.close();
      this.#microphone = microphone;
      const { source, facts } = microphone;
      this.#tell(source, source.stream ? [source.stream as unknown as Transferable] : source.port ? [source.port] : []);
      this.#set({ status: 'open', facts, nearGain: 0 });
      this.#sendChain();
      void this.listDevices();
    } catch (error) {
      if (turn === this.#opened) this.#set({ status: 'closed', problem: microphoneProblem(error) });
    }
  }

  #unplugged(microphone: Microphone): void {
    if (microphone !== this.#microphone) return;
    const recorded = this.#state.recording !== null;
    this.#tell({ type: 'source-gone' });
    this.#closeMicrophone();
    this.#set({
      status: 'closed',
      problem: `The microphone is gone: it was unplugged, or taken by another program. ${recorded ? 'What was recorded until then is kept, and comes into the session. ' : ''}Connect it and open it again.`,
    });
    void this.listDevices();
  }

  #closeMicrophone(): void {
    this.stopPair();
    this.#loop = null;
    this.#microphone?.close();
    this.#microphone = null;
    this.#set({ hearing: false, counting: null });
  }

  readonly #onLive = (report: LiveReport): void => {
    if (report.type === 'meters') this.#set({ live: report.meters, chainFrames: report.chainFrames });
    else if (report.type === 'feedback') this.#set({ hearing: false, feedbackHz: report.hz });
  };

  #heard(report: RecorderReport): void {
    switch (report.type) {
      case 'meter':
        return this.#set({ meter: report.meter });
      case 'listen':
        return this.#listened(report.listen, report.state);
      case 'heard':
        return void this.#check(report.heard);
      case 'take':
        this.#takes.take(report.take);
        return this.#set({ recording: report.take.state === 'recording' ? report.take : this.#stillRecording(report.take.id) });
      case 'left':
        return this.#left(report.takes);
      case 'source-ended':
        return this.#microphone ? this.#unplugged(this.#microphone) : undefined;
    }
  }

  #stillRecording(endedId: string): DeskState['recording'] {
    const { recording } = this.#state;
    return recording?.id === endedId ? null : recording;
  }

  // ── listens ──

  listen(listen: Listen | null): void {
    this.#set({ listening: null });
    this.stopPair();
    if (listen) this.#microphone?.perform(PERFORMS[listen]);
    const floorDbfs = this.#state.check?.figures.floorDbfs ?? this.#floorDbfs;
    this.#tell({ type: 'listen', listen, ...(floorDbfs === null ? {} : { floorDbfs }) });
  }

  #floorDbfs: number | null = null;

  #listened(listen: Listen, state: NonNullable<DeskState['listening']>['state']): void {
    if (!state.enough) return this.#set({ listening: { listen, state } });
    if (listen === 'silence') this.#floorDbfs = this.#state.meter?.rmsDbfs ?? null;
    const heard = new Set([...this.#state.heard, listen]);
    this.#set({ listening: null, heard });
    this.#microphone?.perform('silence');
    if (heard.has('silence') && heard.has('speech')) this.#tell({ type: 'heard', listens: ['silence', 'usual', 'speech'] });
  }

  async #check(heard: Partial<Record<Listen, Float32Array>>): Promise<void> {
    const { silence, speech, usual } = heard;
    if (!silence || !speech || !this.#microphone) return;
    this.#set({ checking: true });
    const rate = this.#microphone.source.sampleRateHz;
    const { startFrame, endFrame } = loopOfSpeech(speech, rate);
    const kernels = (await loadKernels()) as KernelModule;
    this.#loop = new SpeechLoop(
      this.#microphone,
      speech.slice(startFrame, endFrame),
      async (spec, profile, sound) => this.#compute.treat(kernels, rate, spec, profile, sound),
      (state) => this.#set(state),
    );
    try {
      const check = await this.#compute.check(kernels, rate, { silence, speech, usual: usual ?? null });
      this.#set({ check, checking: false, chain: check.chain });
      this.#sendChain();
      this.#profileId = await keepNoise(check.profile, this.#state.facts?.label ?? 'Sound check');
    } catch (error) {
      this.#set({ checking: false, problem: `The listens could not be measured: ${(error as Error).message}` });
    }
  }

  // ── the chain ──

  setTreatment(id: string, values: Readonly<Record<string, unknown>>): void {
    const treatments = this.#state.chain.treatments.map((settings) =>
      settings.id === id ? ({ ...settings, ...values } as TreatmentSettings) : settings,
    );
    this.#set({ chain: { treatments } });
    this.#sendChain();
    if (this.#loop?.playing) void this.playPair(this.#state.pair ?? 'after');
  }

  #sendChain(): void {
    this.#microphone?.setChain(this.#state.chain, this.#state.check?.profile ?? null);
  }

  hear(on: boolean): void {
    this.stopPair();
    if (on) this.#microphone?.perform('talk');
    this.#microphone?.hear(on);
    this.#set({ hearing: on, feedbackHz: null });
  }

  bringNear(nearGain: number): void {
    this.#microphone?.bringNear(nearGain);
    this.#set({ nearGain });
  }

  async measureRound(): Promise<void> {
    const microphone = this.#microphone;
    if (!microphone || this.#state.roundSeconds === 'measuring') return;
    this.#set({ roundSeconds: 'measuring' });
    const seconds = await microphone.measureRound();
    if (microphone === this.#microphone) this.#set({ roundSeconds: seconds ?? 'unheard' });
  }

  get outSeconds(): number {
    return this.#microphone?.outSeconds ?? 0;
  }

  /** What was just said, over and over, as it came or through the chain. */
  async playPair(which: 'before' | 'after'): Promise<void> {
    if (!this.#loop) return;
    if (this.#state.hearing) this.hear(false);
    await this.#loop.play(which, () => this.#state.chain, this.#state.check?.profile ?? null);
  }

  stopPair(): void {
    if (this.#state.pair || this.#state.pairBusy) this.#loop?.stop();
  }

  // ── takes ──

  readonly set = (change: Partial<Pick<DeskState, 'countIn' | 'preRoll' | 'takeName'>>): void => this.#set(change);

  /** Begins a take, after the count where one is wished; or ends the one that runs. */
  async record(): Promise<void> {
    if (this.#state.recording) return this.stop();
    if (!this.#microphone || this.#state.counting !== null) return;
    this.stopPair();
    this.#microphone.perform('talk');
    const microphone = this.#microphone;
    if (this.#state.countIn)
      for (let left = COUNT_FROM; left > 0; left--) {
        this.#set({ counting: left });
        microphone.tick(left === 1);
        await new Promise((resolve) => setTimeout(resolve, COUNT_MS));
        if (microphone !== this.#microphone || this.#state.counting === null) return;
      }
    this.#set({ counting: null });
    this.#tell({ type: 'start', ...takeOf(this.#state, this.#sittingId, this.#profileId) });
  }

  stop(): void {
    this.#set({ counting: null });
    this.#tell({ type: 'stop' });
    this.#microphone?.perform('silence');
  }

  mark(kind: TakeMarkKind): void {
    if (this.#state.recording) this.#tell({ type: 'mark', kind });
  }

  /** What earlier pages left: on this machine, and what only the server has. */
  #left(left: readonly LeftTake[]): void {
    this.#set({ left });
    void leftOnServer(left).then((more) => this.#set({ left: [...left, ...more] }));
  }

  /** Brings what was left into a session, or throws it away. */
  settleLeft(take: LeftTake, keep: boolean): void {
    if (!take.onServer) return this.#tell({ type: keep ? 'finish' : 'forget', id: take.id });
    const here = this.#state.left.filter(({ onServer }) => !onServer);
    void settleOnServer(take, keep).then(
      () => this.#left(here),
      (error: Error) => this.#set({ problem: error.message }),
    );
  }

  /** What is recorded goes on to its end; the recorder ends with the page, or when all is sent. */
  close(): void {
    this.#closed = true;
    this.#opened++;
    if (this.#state.recording) this.stop();
    this.#tell({ type: 'close' });
    this.#closeMicrophone();
    this.#takes.close();
    navigator.mediaDevices?.removeEventListener?.('devicechange', this.listDevices);
    this.#checker.terminate();
    // A moment to write and send what is left; the next sound check sends the rest.
    setTimeout(() => this.#recorder.terminate(), 4000);
  }
}
