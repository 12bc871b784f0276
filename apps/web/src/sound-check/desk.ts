import type { TreatmentSettings } from '@euphonos/dsp';
import { wrap } from 'comlink';
import type { LiveReport } from '../microphone/live-protocol.js';
import { microphoneProblem, microphones, SIMULATED } from '../microphone/devices.js';
import { Microphone } from '../microphone/microphone.js';
import { onToken, personHere } from '../api/token.js';
import type { RecorderCommand, RecorderReport } from '../recorder/protocol.js';
import type { CheckWorker } from './check.worker.js';
import type { DeskParts } from './desk-parts.js';
import { CLOSED, NOTHING_CHECKED, type DeskState } from './desk-state.js';
import { Listens } from './listens.js';
import { Takes } from './takes.js';

/** A moment to write and send what is left; the next sound check sends the rest. */
const LAST_WORDS_MS = 4000;

/** One sitting at a microphone: device, listens, live chain, takes. What is too fast for a store lives here, as the workbench does for a session. */
export class Desk {
  readonly listens: Listens;
  readonly takes: Takes;
  #state: DeskState = CLOSED;
  readonly #listeners = new Set<() => void>();
  readonly #recorder: Worker;
  readonly #stopToken: () => void;
  readonly #checker: Worker;
  #microphone: Microphone | null = null;
  #opened = 0;
  #closed = false;

  constructor() {
    this.#recorder = new Worker(new URL('../recorder/recorder.worker.ts', import.meta.url), { type: 'module' });
    this.#checker = new Worker(new URL('./check.worker.ts', import.meta.url), { type: 'module' });
    this.#stopToken = onToken((token) => this.#tell({ type: 'person', personId: personHere(), token }));
    this.#recorder.onmessage = ({ data }) => this.#reported(data as RecorderReport);
    const parts: DeskParts = {
      state: () => this.#state,
      set: this.set,
      microphone: () => this.#microphone,
      tellRecorder: (command) => this.#tell(command),
      compute: wrap<CheckWorker>(this.#checker),
    };
    this.listens = new Listens(parts, () => this.#sendChain());
    this.takes = new Takes(parts, () => this.listens.profileId);
    void this.listDevices();
    navigator.mediaDevices?.addEventListener?.('devicechange', this.listDevices);
    window.addEventListener('beforeunload', this.#askBeforeLeaving);
  }

  get state(): DeskState {
    return this.#state;
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  readonly set = (change: Partial<DeskState>): void => {
    this.#state = { ...this.#state, ...change };
    for (const listener of this.#listeners) listener();
  };

  #tell(command: RecorderCommand, transfer: Transferable[] = []): void {
    this.#recorder.postMessage(command, transfer);
  }

  readonly #askBeforeLeaving = (event: BeforeUnloadEvent): void => {
    if (this.#state.recording) event.preventDefault();
  };

  readonly listDevices = async (): Promise<void> => {
    const devices = await microphones();
    if (this.#closed) return;
    const known = devices.some(({ id }) => id === this.#state.deviceId);
    this.set({ devices, deviceId: known ? this.#state.deviceId : (devices[0]?.id ?? SIMULATED) });
  };

  /** Another device or channel: what was heard of the one before says nothing of it. */
  choose(change: Partial<Pick<DeskState, 'deviceId' | 'channel'>>): void {
    this.set({ ...change, ...NOTHING_CHECKED });
    this.listens.profileId = null;
    if (this.#state.status === 'open') void this.open();
  }

  async open(): Promise<void> {
    if (this.#state.recording) return;
    const turn = ++this.#opened;
    this.#closeMicrophone();
    this.set({
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
      // The same device may come back at another rate: the noise that is known is not that of these frames then.
      if (this.#state.check && this.#state.check.profile.sampleRateHz !== source.sampleRateHz) this.set(NOTHING_CHECKED);
      this.set({ status: 'open', facts, nearGain: 0 });
      this.#sendChain();
      void this.listDevices();
    } catch (error) {
      if (turn === this.#opened) this.set({ status: 'closed', problem: microphoneProblem(error) });
    }
  }

  #unplugged(microphone: Microphone): void {
    if (microphone !== this.#microphone) return;
    const recorded = this.#state.recording !== null;
    this.#tell({ type: 'source-gone' });
    this.#closeMicrophone();
    this.set({
      status: 'closed',
      problem: `The microphone is gone: it was unplugged, or taken by another program. ${recorded ? 'What was recorded until then is kept, and comes into the session. ' : ''}Connect it and open it again.`,
    });
    void this.listDevices();
  }

  #closeMicrophone(): void {
    this.listens.microphoneGoes();
    this.#microphone?.close();
    this.#microphone = null;
    this.set({ hearing: false, counting: null });
  }

  readonly #onLive = (report: LiveReport): void => {
    if (report.type === 'meters') this.set({ live: report.meters, chainFrames: report.chainFrames });
    else if (report.type === 'feedback') this.set({ hearing: false, feedbackHz: report.hz });
  };

  #reported(report: RecorderReport): void {
    switch (report.type) {
      case 'meter':
        return this.set({ meter: report.meter });
      case 'listen':
        return this.listens.heardSoFar(report.listen, report.state);
      case 'heard':
        return void this.listens.measure(report.heard);
      case 'take':
        return this.takes.reported(report.take);
      case 'left':
        return this.takes.found(report.takes);
      case 'source-ended':
        return this.#microphone ? this.#unplugged(this.#microphone) : undefined;
    }
  }

  setTreatment(id: string, values: Readonly<Record<string, unknown>>): void {
    const treatments = this.#state.chain.treatments.map((settings) =>
      settings.id === id ? ({ ...settings, ...values } as TreatmentSettings) : settings,
    );
    this.set({ chain: { treatments } });
    this.#sendChain();
    this.listens.chainMoved();
  }

  #sendChain(): void {
    this.#microphone?.setChain(this.#state.chain, this.#state.check?.profile ?? null);
  }

  hear(on: boolean): void {
    this.listens.stopPair();
    if (on) this.#microphone?.perform('talk');
    this.#microphone?.hear(on);
    this.set({ hearing: on, feedbackHz: null });
  }

  async playPair(which: 'before' | 'after'): Promise<void> {
    if (this.#state.hearing) this.hear(false);
    await this.listens.playPair(which);
  }

  async record(): Promise<void> {
    this.listens.stopPair();
    await this.takes.record();
  }

  bringNear(nearGain: number): void {
    this.#microphone?.bringNear(nearGain);
    this.set({ nearGain });
  }

  async measureRound(): Promise<void> {
    const microphone = this.#microphone;
    if (!microphone || this.#state.roundSeconds === 'measuring') return;
    this.set({ roundSeconds: 'measuring' });
    const seconds = await microphone.measureRound();
    if (microphone === this.#microphone) this.set({ roundSeconds: seconds ?? 'unheard' });
  }

  get outSeconds(): number {
    return this.#microphone?.outSeconds ?? 0;
  }

  /** What is recorded goes on to its end; the recorder ends with the page, or when all is sent. */
  close(): void {
    this.#closed = true;
    this.#stopToken();
    this.#opened++;
    this.takes.close();
    this.#tell({ type: 'close' });
    this.#closeMicrophone();
    navigator.mediaDevices?.removeEventListener?.('devicechange', this.listDevices);
    window.removeEventListener('beforeunload', this.#askBeforeLeaving);
    this.#checker.terminate();
    setTimeout(() => this.#recorder.terminate(), LAST_WORDS_MS);
  }
}
