import type { ChainSpec, NoiseProfile } from '@euphonos/dsp';
import type { Lane, Span } from '@euphonos/engine';
import { Feeder } from './feeder.js';
import { loadKernels } from './kernels.js';
import workletUrl from './monitor.worklet.ts?worker&url';
import { PROCESSOR_NAME, type MonitorCommand, type MonitorOptions, type MonitorReport } from './protocol.js';
import type { SampleSource } from './samples.js';

const SILENT = { peakDbfs: -Infinity, rmsDbfs: -Infinity, momentaryLufs: -Infinity, shortTermLufs: -Infinity };

/**
 * The sound of one clip: steers the monitor in the audio thread and keeps it fed. Made with the view, started with
 * the first play (browsers allow sound only after a gesture). Commands given before are kept and sent then.
 */
export class Player {
  readonly #feeder: Feeder;
  readonly #listeners = new Set<() => void>();
  #context: AudioContext | undefined;
  #node: AudioWorkletNode | undefined;
  #starting: Promise<void> | undefined;
  #early = new Map<string, MonitorCommand>();
  #report: MonitorReport = { status: 'stopped', frame: 0, contextSeconds: 0, meters: SILENT };
  /** Where play starts, and what is shown while it is stopped. */
  #cursorFrame = 0;
  #loop: Span | null = null;
  #closed = false;

  constructor(
    private readonly source: SampleSource & { readonly sampleRateHz: number },
    onTrouble: (error: unknown) => void,
  ) {
    this.#feeder = new Feeder(
      source,
      (index, channels) => this.#node?.port.postMessage({ type: 'chunk', index, channels } satisfies MonitorCommand, channels.map(({ buffer }) => buffer)),
      (index) => this.#node?.port.postMessage({ type: 'drop', index } satisfies MonitorCommand),
      onTrouble,
    );
  }

  get status(): MonitorReport['status'] {
    return this.#report.status;
  }

  get playing(): boolean {
    return this.#report.status !== 'stopped';
  }

  get meters(): MonitorReport['meters'] {
    return this.playing ? this.#report.meters : SILENT;
  }

  /** The node that sounds, for tests that listen to what comes out. */
  get node(): AudioWorkletNode | undefined {
    return this.#node;
  }

  /** The frame that is heard now: the last report, moved on by the audio clock. */
  get frame(): number {
    if (!this.playing || !this.#context) return this.#cursorFrame;
    if (this.#report.status !== 'playing') return this.#report.frame;
    const late = this.#context.currentTime - (this.#context.outputLatency || 0) - this.#report.contextSeconds;
    const frame = this.#report.frame + Math.round(late * this.source.sampleRateHz);
    const loop = this.#loop;
    if (loop && this.#report.frame < loop.endFrame && frame >= loop.endFrame) return loop.startFrame + ((frame - loop.startFrame) % (loop.endFrame - loop.startFrame));
    return Math.max(0, frame);
  }

  /** Calls back at every report. Returns how to stop. */
  subscribe(listener: () => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  setChain(spec: ChainSpec): void {
    const early = this.#early.get('profile');
    if (!this.#node && early?.type === 'profile') this.#early.set('profile', { ...early, spec });
    else this.#send({ type: 'chain', spec });
  }

  setProfile(profile: NoiseProfile | null, spec: ChainSpec): void {
    this.#send({ type: 'profile', profile, spec });
  }

  setLane(lane: Lane): void {
    this.#send({ type: 'lane', lane });
  }

  setLaneGains(gainsDb: Readonly<Record<Lane, number>>): void {
    this.#send({ type: 'gains', gainsDb });
  }

  setLoop(loop: Span | null): void {
    this.#loop = loop;
    this.#send({ type: 'loop', loop });
    this.#feed(this.frame);
  }

  /** Puts the playhead somewhere, playing or not. */
  seek(frame: number): void {
    this.#cursorFrame = Math.max(0, Math.min(this.source.lengthFrames - 1, Math.round(frame)));
    this.#feed(this.#cursorFrame);
    if (this.playing) this.#send({ type: 'play', frame: this.#cursorFrame });
    this.#notify();
  }

  async play(): Promise<void> {
    await (this.#starting ??= this.#start());
    if (this.#closed) return;
    await this.#context!.resume();
    this.#feed(this.#cursorFrame);
    this.#send({ type: 'play', frame: this.#cursorFrame });
  }

  /** Stops; the playhead goes back to where play started. */
  stop(): void {
    this.#send({ type: 'stop' });
  }

  close(): void {
    this.#closed = true;
    this.#listeners.clear();
    void this.#context?.close();
  }

  async #start(): Promise<void> {
    const { sampleRateHz, channels, lengthFrames } = this.source;
    const context = new AudioContext({ sampleRate: sampleRateHz, latencyHint: 'interactive' });
    const [kernels] = await Promise.all([loadKernels(), context.audioWorklet.addModule(workletUrl)]);
    const options: MonitorOptions = { kernels, channels: channels.length, lengthFrames };
    const node = new AudioWorkletNode(context, PROCESSOR_NAME, { numberOfInputs: 0, outputChannelCount: [channels.length], processorOptions: options });
    node.connect(context.destination);
    node.port.onmessage = ({ data }) => this.#take(data as MonitorReport);
    this.#context = context;
    this.#node = node;
    for (const command of this.#early.values()) node.port.postMessage(command);
    this.#early.clear();
  }

  #take(report: MonitorReport): void {
    this.#report = report;
    if (report.status !== 'stopped') this.#feed(report.frame);
    this.#notify();
  }

  /** Samples are fetched only once there is somebody to hold them. */
  #feed(frame: number): void {
    if (this.#node) this.#feeder.moveTo(frame, this.#loop);
  }

  #notify(): void {
    for (const listener of this.#listeners) listener();
  }

  /** Sends a command, or keeps the latest of each type until there is somebody to send it to. */
  #send(command: MonitorCommand): void {
    if (this.#node) this.#node.port.postMessage(command);
    else if (command.type !== 'play' && command.type !== 'stop') this.#early.set(command.type, command);
  }
}
