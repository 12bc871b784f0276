import { needsProfile, type ChainSpec, type NoiseProfile } from '@euphonos/dsp';
import { isPlain, levelTable, soundKey, type Span } from '@euphonos/engine';
import { ArrangedReader, type TrackSound } from './arranged.js';
import { loadKernels } from './kernels.js';
import { Feeder } from './feeder.js';
import type { BesideNews, MonitorCommand, SourceNews } from './protocol.js';
import type { SampleSource } from './samples.js';

/** Renders a chunk of the track through the first part of a chain. */
export type PrepareChunk = (key: string, spec: ChainSpec, profile: NoiseProfile | null, index: number) => Promise<Float32Array[]>;

/** Another track that is heard: `key` names all that its sound depends on. */
export interface BesideSound {
  readonly id: string;
  readonly key: string;
  readonly lengthFrames: number;
  readonly channels: number;
  readonly gains: readonly [number, number];
  readonly chunk: (index: number) => Promise<Float32Array[]>;
}

/** The other tracks, and where the one at work stands among them. */
export interface PlayedMix {
  readonly channels: number;
  readonly ownGains: readonly [number, number];
  readonly beside: readonly BesideSound[];
  /** Where the session ends. */
  readonly lengthFrames: number;
}

/**
 * Keeps the monitor supplied: with the track before its chain, and with what is rendered of it in the background. Each
 * is a store of the monitor with a number of its own; other clips, or another first part of the chain, are another store.
 */
export class Supply {
  readonly #reader: ArrangedReader;
  #soundKey: string;
  #stores = 1;
  #store = 1;
  #feeder: Feeder;
  #prepared = 0;
  #preparedKey = '';
  #preparedFeeder: Feeder | undefined;
  /** The other tracks by their ids: what they are, where their sound comes from. */
  readonly #beside = new Map<string, { readonly key: string; readonly store: number; readonly feeder: Feeder }>();
  #fed: ReadonlySet<string> = new Set();
  /** Level of the track among the others that are heard with it; -Infinity when it is muted. */
  gainDb = 0;

  constructor(
    private readonly source: SampleSource & { readonly sampleRateHz: number },
    private readonly post: (command: MonitorCommand, channels?: readonly Float32Array[]) => void,
    private readonly onTrouble: (error: unknown) => void,
    private readonly prepareChunk: PrepareChunk,
  ) {
    this.#reader = new ArrangedReader(source, undefined, undefined, loadKernels);
    this.#soundKey = this.#keyOfSound(this.#reader.sound);
    this.#feeder = this.#feederOf(this.#store, (index) => this.#reader.chunk(index));
  }

  get sound(): TrackSound {
    return this.#reader.sound;
  }

  get lengthFrames(): number {
    return this.#reader.lengthFrames;
  }

  read(startFrame: number, endFrame: number): Promise<Float32Array[]> {
    return this.#reader.read(startFrame, endFrame);
  }

  /** The number of what is rendered in the background, 0 for none. */
  get prepared(): number {
    return this.#prepared;
  }

  /** The number of the track before its chain. */
  get store(): number {
    return this.#store;
  }

  /** What the monitor must know of the track. */
  get news(): SourceNews {
    const { clips } = this.#reader;
    const { lengthFrames: recordingFrames, sampleRateHz } = this.source;
    const plain = isPlain(clips, recordingFrames) && this.gainDb === 0;
    return {
      store: this.#store,
      lengthFrames: this.lengthFrames,
      levels: plain ? null : levelTable(clips, recordingFrames, sampleRateHz, this.gainDb),
    };
  }

  /** Takes other clips. False when they differ in level alone, or not at all: what the monitor has is still right. */
  setSound(sound: TrackSound): boolean {
    const key = this.#keyOfSound(sound);
    this.#reader.set(sound);
    if (key === this.#soundKey) return false;
    this.#soundKey = key;
    this.#store = ++this.#stores;
    this.#feeder.stop();
    this.#feeder = this.#feederOf(this.#store, (index) => this.#reader.chunk(index));
    return true;
  }

  #keyOfSound({ clips, roomTone, noise }: TrackSound): string {
    const known = !noise ? '' : Array.isArray(noise) ? JSON.stringify(noise) : 'kept';
    return `${soundKey(clips)}/${roomTone ? `${roomTone.startFrame}-${roomTone.endFrame}` : ''}/${known}`;
  }

  /** Names the first part of a chain, the clips and, where it matters, the profile. */
  keyOf({ treatments, alone }: ChainSpec, profiles: number): string {
    if (treatments.length === 0) return '';
    return JSON.stringify([treatments, alone, treatments.some(needsProfile) ? profiles : 0, this.#store]);
  }

  /** Whether that is what is rendered now. */
  prepares(key: string): boolean {
    return key === this.#preparedKey;
  }

  prepare(spec: ChainSpec, key: string, profile: NoiseProfile | null): void {
    this.#preparedFeeder?.stop();
    this.#preparedFeeder = undefined;
    this.#preparedKey = key;
    this.#prepared = 0;
    if (spec.treatments.length === 0) return;
    this.#prepared = ++this.#stores;
    this.#preparedFeeder = this.#feederOf(this.#prepared, (index) => this.prepareChunk(key, spec, profile, index));
  }

  /** Other tracks to be heard beside it. One whose key is as before keeps what there is of it; one that is not heard is not fetched. */
  setBeside(tracks: readonly BesideSound[]): BesideNews[] {
    const wanted = new Set(tracks.map(({ id }) => id));
    for (const [id, { feeder }] of this.#beside)
      if (!wanted.has(id)) {
        feeder.stop();
        this.#beside.delete(id);
      }
    this.#fed = new Set(tracks.filter(({ gains }) => gains[0] + gains[1] > 0).map(({ id }) => id));
    return tracks.map(({ id, key, lengthFrames, channels, gains, chunk }) => {
      const known = this.#beside.get(id);
      if (known?.key === key) return { id, store: known.store, channels, lengthFrames, gains };
      known?.feeder.stop();
      const store = ++this.#stores;
      this.#beside.set(id, { key, store, feeder: this.#feederOf(store, chunk, lengthFrames) });
      return { id, store, channels, lengthFrames, gains };
    });
  }

  #feederOf(store: number, fetch: (index: number) => Promise<Float32Array[]>, lengthFrames = this.lengthFrames): Feeder {
    return new Feeder(
      lengthFrames,
      (index, channels) => this.post({ type: 'chunk', store, index, channels }, channels),
      (index) => this.post({ type: 'drop', store, index }),
      this.onTrouble,
      fetch,
    );
  }

  /** The playhead is here; with `letGo`, what is far from it is dropped. */
  moveTo(frame: number, loop: Span | null, letGo: boolean): void {
    this.#feeder.moveTo(frame, loop, letGo);
    this.#preparedFeeder?.moveTo(frame, loop, letGo);
    for (const [id, { feeder }] of this.#beside) if (this.#fed.has(id)) feeder.moveTo(frame, loop, letGo);
  }

  /** The monitor is gone, with all that it held. */
  forget(): void {
    this.#feeder.forget();
    this.#preparedFeeder?.forget();
    for (const { feeder } of this.#beside.values()) feeder.forget();
  }
}
