import type { ChainSpec, NoiseProfile } from '@euphonos/dsp';
import { followFrame, splitChain, type Span } from '@euphonos/engine';
import type { MemoryRequest } from '../passage/chain-memory.js';
import type { TrackSound } from './arranged.js';
import type { AskMemories } from './memory-feed.js';
import { Playhead, SILENT } from './playhead.js';
import { MonitorControls } from './monitor-controls.js';
import { KeptCommands } from './kept-commands.js';
import { createMonitorNode } from './monitor-node.js';
import type { MonitorCommand, MonitorReport } from './protocol.js';
import { Remembering } from './remembering.js';
import type { SampleSource } from './samples.js';
import { Supply, type PlayedMix, type PrepareChunk } from './supply.js';
import { Signal } from '../signal.js';

/** What is rendered in the background is rendered anew this long after the last movement of its controls. */
const SETTLE_MS = 160;

/**
 * The sound of one track: steers the monitor in the audio thread and keeps it fed. Made with the view, started with
 * the first play (browsers allow sound only after a gesture). What the monitor was told last is kept, for a start or
 * a start anew.
 */
export class Player extends MonitorControls {
  readonly #supply: Supply;
  readonly #memory: Remembering;
  readonly #reports = new Signal();
  /** Calls back at every report. Returns how to stop. */
  readonly subscribe = this.#reports.subscribe;
  readonly #latest = new KeptCommands();
  #context: AudioContext | undefined;
  #node: AudioWorkletNode | undefined;
  #starting: Promise<void> | undefined;
  readonly #playhead = new Playhead();
  #asked = false;
  /** Where play starts, and what is shown while it is stopped. */
  #cursorFrame = 0;
  /** Where the session ends, as far as it is told. */
  #sessionFrames = 0;
  #wholeKnownFrames = Infinity;
  #loop: Span | null = null;
  #closed = false;
  #spec: ChainSpec = { treatments: [] };
  #profile: NoiseProfile | null = null;
  /** Counts the profiles taken. */
  #profiles = 0;
  #switching: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly source: SampleSource & { readonly sampleRateHz: number },
    private readonly onTrouble: (error: unknown) => void,
    prepareChunk: PrepareChunk,
    askMemories: AskMemories<MemoryRequest>,
  ) {
    super();
    this.#supply = new Supply(source, (command, channels) => this.#post(command, channels), onTrouble, prepareChunk);
    this.#memory = new Remembering(askMemories, this.#supply, {
      post: (command) => this.#post(command),
      onProgress: this.#reports.tell,
      onTrouble,
      urgent: () => this.#asked && !this.exact,
      playing: () => this.#asked,
      renderAgain: (prepared, key) => this.#switchTo(prepared, key),
    });
  }

  /** Other clips, with the chain placed on them. Other levels alone glide; anything else fades over, and goes on with the sound that was heard. */
  setSound(sound: TrackSound, spec: ChainSpec): void {
    const before = this.#supply.sound.clips;
    if (!this.#supply.setSound(sound)) return this.#post({ type: 'levels', levels: this.#supply.news.levels });
    const frame = followFrame(before, sound.clips, this.frame);
    this.#cursorFrame = followFrame(before, sound.clips, this.#cursorFrame);
    this.#spec = spec;
    clearTimeout(this.#switching);
    const { prepared } = splitChain(spec);
    this.#supply.prepare(prepared, this.#supply.keyOf(prepared, this.#profiles), this.#profile);
    this.#latest.keepChain(this.#spec, this.#supply.prepared);
    this.#playhead.await(frame, this.#node !== undefined);
    this.#post({ type: 'source', source: this.#supply.news, spec, prepared: this.#supply.prepared, frame });
    this.#feed(frame);
    this.#memory.follow(this.#spec, this.#profile, this.#profiles);
    this.#reports.tell();
  }

  /** What is heard is what a render makes of it; while it is stopped, what would be heard from here. */
  get exact(): boolean {
    if (!this.#memory.preparedExact) return false;
    const heard = this.#asked && this.#node ? this.#playhead.exact : null;
    return heard ?? (this.#cursorFrame < this.knownFrames || this.#cursorFrame === 0);
  }

  /** Up to which frame it is known what the chain remembers; Infinity when all is. */
  get knownFrames(): number {
    return Math.min(this.#memory.knownFrames, this.#wholeKnownFrames);
  }

  get status(): MonitorReport['status'] {
    return this.#playhead.status;
  }

  /** Whether it was asked to play and has not come to an end. */
  get playing(): boolean {
    return this.#asked;
  }

  get meters(): MonitorReport['meters'] {
    return this.#asked ? this.#playhead.meters : SILENT;
  }

  /** The node that sounds, for tests that listen to what comes out. */
  get node(): AudioWorkletNode | undefined {
    return this.#node;
  }

  /** The frame that is heard now; where play starts, while it is stopped. */
  get frame(): number {
    if (!this.#asked || !this.#context || !this.#node) return this.#cursorFrame;
    return this.#playhead.frame(this.#context, this.source.sampleRateHz, this.#loop);
  }

  /**
   * What is heard from now on. A first part that cannot run in the audio clock is rendered in the background, once
   * nothing has moved for a moment; the chain before sounds until it is there. What is heard `aside`, for a moment, is not learnt.
   */
  setChain(spec: ChainSpec, aside = false): void {
    this.#spec = spec;
    if (!aside) this.#memory.follow(this.#spec, this.#profile, this.#profiles);
    const { prepared } = splitChain(spec);
    const key = this.#supply.keyOf(prepared, this.#profiles);
    clearTimeout(this.#switching);
    if (this.#supply.prepares(key)) return this.#tellChain();
    if (prepared.treatments.length === 0 || !this.#node) return this.#switchTo(prepared, key);
    this.#switching = setTimeout(() => this.#switchTo(prepared, key), SETTLE_MS);
  }

  setProfile(profile: NoiseProfile | null, spec: ChainSpec): void {
    this.#profile = profile;
    this.#profiles++;
    this.#spec = spec;
    // A switch that was still waiting would bring an older first part back.
    clearTimeout(this.#switching);
    const { prepared } = splitChain(spec);
    const key = this.#supply.keyOf(prepared, this.#profiles);
    if (!this.#supply.prepares(key)) this.#supply.prepare(prepared, key, profile);
    this.tell({ type: 'profile', profile, spec, prepared: this.#supply.prepared });
    this.#memory.follow(this.#spec, this.#profile, this.#profiles);
  }

  #tellChain(): void {
    this.#latest.keepChain(this.#spec, this.#supply.prepared);
    this.#node?.port.postMessage({ type: 'chain', spec: this.#spec, prepared: this.#supply.prepared } satisfies MonitorCommand);
  }

  #switchTo(prepared: ChainSpec, key: string): void {
    this.#memory.switched(key);
    this.#supply.prepare(prepared, key, this.#profile);
    this.#tellChain();
    this.#feed(this.frame);
  }

  #post(command: MonitorCommand, channels: readonly Float32Array[] = []): void {
    this.#node?.port.postMessage(
      command,
      channels.map(({ buffer }) => buffer),
    );
  }

  /** Frames of the track before its chain. */
  readonly read = (startFrame: number, endFrame: number): Promise<Float32Array[]> => this.#supply.read(startFrame, endFrame);

  /** Level of this track among the others; -Infinity when it is muted. */
  setTrackGain(gainDb: number): void {
    if (gainDb === this.#supply.gainDb) return;
    this.#supply.gainDb = gainDb;
    this.#post({ type: 'levels', levels: this.#supply.news.levels });
  }

  /** Other tracks, heard beside this one, and where it stands among them. */
  setMix({ channels, ownGains, beside, lengthFrames }: PlayedMix): void {
    this.#sessionFrames = lengthFrames;
    this.tell({ type: 'mix', mix: { channels, ownGains, beside: this.#supply.setBeside(beside), lengthFrames } });
    this.#feed(this.frame);
  }

  /** How many of the other tracks are still rendered. */
  get awaited(): number {
    return this.#asked ? this.#playhead.awaited : 0;
  }

  /** Up to which frame it is known what the chain on the whole remembers. */
  setWholeKnown(frames: number): void {
    this.#wholeKnownFrames = frames;
    this.#reports.tell();
  }

  setLoop(loop: Span | null): void {
    this.#loop = loop;
    this.tell({ type: 'loop', loop });
    this.#feed(this.frame);
  }

  /** Puts the playhead somewhere, playing or not. */
  seek(frame: number): void {
    this.#cursorFrame = Math.max(0, Math.min(Math.max(this.#supply.lengthFrames, this.#sessionFrames) - 1, Math.round(frame)));
    if (this.#asked) this.#playFromCursor();
    this.#reports.tell();
  }

  async play(): Promise<void> {
    this.#asked = true;
    this.#reports.tell();
    try {
      await (this.#starting ??= this.#start());
      await this.#context?.resume();
    } catch (error) {
      this.#reset();
      throw error;
    }
    // Stopped again, or left, while the sound was starting.
    if (this.#asked && !this.#closed) this.#playFromCursor();
  }

  /** Stops; the playhead goes back to where play started. */
  stop(): void {
    this.#asked = false;
    this.#node?.port.postMessage({ type: 'stop' } satisfies MonitorCommand);
    this.#reports.tell();
  }

  close(): void {
    this.#closed = true;
    this.#memory.close();
    clearTimeout(this.#switching);
    this.#reports.clear();
    this.#reset();
  }

  async #start(): Promise<void> {
    const { sampleRateHz, channelCount } = this.source;
    const context = new AudioContext({ sampleRate: sampleRateHz, latencyHint: 'interactive' });
    this.#context = context;
    const node = await createMonitorNode(context, channelCount, () => (this.#closed ? null : this.#supply.news));
    if (!node) return;
    node.port.onmessage = ({ data }) => this.#take(data as MonitorReport);
    node.onprocessorerror = () => {
      this.#reset();
      this.onTrouble(new Error('The sound broke off because of an error in the audio thread. Your work is safe; play again.'));
    };
    this.#node = node;
    for (const command of this.#latest.all) node.port.postMessage(command);
    this.#memory.again();
  }

  /** Back to before the first start; the next play starts anew. */
  #reset(): void {
    void this.#context?.close().catch(() => undefined);
    this.#context = this.#node = this.#starting = undefined;
    this.#playhead.reset();
    this.#asked = false;
    this.#supply.forget();
    this.#reports.tell();
  }

  #playFromCursor(): void {
    if (!this.#node) return;
    this.#playhead.await(this.#cursorFrame, true);
    this.#node.port.postMessage({ type: 'play', frame: this.#cursorFrame } satisfies MonitorCommand);
    this.#feed(this.#cursorFrame);
  }

  #take(report: MonitorReport): void {
    if (!this.#playhead.take(report)) return;
    if (report.status === 'stopped') this.#asked = false;
    else this.#feed(report.frame, true);
    this.#reports.tell();
  }

  /**
   * Samples are fetched only once there is somebody to hold them. Those of an old place are let go when the monitor
   * has left it: it still fades out there.
   */
  #feed(frame: number, letGo = false): void {
    if (!this.#node) return;
    this.#supply.moveTo(frame, this.#loop, letGo);
  }

  protected tell(command: MonitorCommand): void {
    this.#latest.keep(command);
    this.#node?.port.postMessage(command);
  }
}
