import { profileFromFile, type ChainSpec, type LevelTrack, type NoiseProfile } from '@euphonos/dsp';
import {
  endOf,
  noisePlan,
  placedChain,
  placedProfile,
  type ChainPrice,
  type Track,
  type Lane,
  type Reel,
  type Span,
} from '@euphonos/engine';
import { getProfileFile } from '../api/client.js';
import { soundOf, wholeSound, type TrackSound } from '../audio/arranged.js';
import { Player } from '../audio/player.js';
import { sourceOf } from '../audio/samples.js';
import { TimeView } from '../drawing/time-view.js';
import { TileBitmaps } from '../drawing/tile-bitmaps.js';
import { fetchLevels } from '../passage/levels.js';
import { Passage, type Figures } from '../passage/passage.js';
import { MOST_MEASURED_SECONDS, type Effects, type Spectra } from '../passage/figures-computer.js';
import { Pictures } from '../passage/pictures.js';
import { Signal } from '../signal.js';
import { Details } from './details.js';
import { LaneFigures, type FiguresOf } from './lane-figures.js';
import { Mixing } from './mixing.js';
import { Places } from './places.js';
import { heardChain, sameSound, sameSpan, sameTrackSound, type Aside, treatedSpans, wordsOfSpan } from './same-sound.js';
import { NoiseFollower } from './noise-follower.js';

/** Pictures and figures are made anew this long after the last movement of a control. */
const SETTLE_MS = 220;

/**
 * Everything of one open track that lives outside of the store: its sound, its pictures, its figures, its place on
 * the time axis. It is given the document's parts as they change and passes them on to where they are needed.
 */
export class Workbench {
  readonly player: Player;
  /** Where the pointer is that scrubs and moves; what is heard follows in grains. null otherwise. */
  scrubbedFrame: number | null = null;
  readonly passage: Passage;
  readonly mixing: Mixing;
  readonly view: TimeView;
  readonly pictures: Pictures;
  readonly bitmaps: TileBitmaps;
  readonly sampleRateHz: number;
  readonly recordingFrames: number;
  readonly #changes = new Signal();
  readonly #pictureChanges = new Signal();
  #sound: TrackSound;
  /** Figures are still of other clips. */
  #soundChanged = false;
  #places: Places | undefined;
  #levels: Promise<LevelTrack> | undefined;
  readonly reel: Reel;
  #spec: ChainSpec | null = null;
  #track: Track | null = null;
  #profile: NoiseProfile | null = null;
  readonly #noise: NoiseFollower;
  readonly #figures = new LaneFigures();
  readonly #details: Details;
  #aside: Aside | null = null;
  #figuresSpan: Span = { startFrame: 0, endFrame: 1 };
  #settling: ReturnType<typeof setTimeout> | undefined;
  #chainChanged = false;
  #sessionFrames = 0;

  constructor(
    reel: Reel,
    /** How many channels each of its recordings has. */
    private readonly allChannels: ReadonlyMap<string, number>,
    sampleRateHz: number,
    private readonly onTrouble: (error: unknown) => void,
  ) {
    const source = { ...sourceOf(reel), sampleRateHz };
    const { lengthFrames } = source;
    this.sampleRateHz = sampleRateHz;
    this.recordingFrames = lengthFrames;
    this.reel = reel;
    this.#sound = wholeSound(source);
    this.#figuresSpan = { startFrame: 0, endFrame: lengthFrames };
    this.passage = new Passage(source);
    this.#noise = new NoiseFollower({
      profile: (spans, spec) => this.passage.profile(spans, spec),
      kept: async (profileId) => profileFromFile(await getProfileFile(profileId), sampleRateHz, source.channelCount),
      take: (profile) => this.#takeProfile(profile),
      onTrouble,
    });
    this.player = new Player(
      source,
      onTrouble,
      (key, spec, profile, index) => this.passage.preparedChunk(key, spec, profile, index),
      (request, from) => this.passage.memories(request, from),
    );
    this.#details = new Details(this.passage, () => this.#settle(false), this.#changes.tell);
    this.mixing = new Mixing(this.player, this.passage, sampleRateHz, onTrouble, this.#changes.tell);
    this.view = new TimeView(lengthFrames);
    this.bitmaps = new TileBitmaps(sampleRateHz);
    this.pictures = new Pictures({ ...source, allChannels }, this.passage, this.#pictureChanges.tell, onTrouble);
  }

  /** The clips that are heard and seen. */
  get sound(): TrackSound {
    return this.#sound;
  }

  /** Between times of the recording and of the session. */
  get places(): Places {
    if (this.#places?.clips !== this.#sound.clips) this.#places = new Places(this.#sound.clips, this.sampleRateHz);
    return this.#places;
  }

  /** Levels of the recording over time; fetched once. */
  levels(): Promise<LevelTrack> {
    this.#levels ??= fetchLevels(this.reel, this.sampleRateHz, this.allChannels);
    this.#levels.catch(() => (this.#levels = undefined));
    return this.#levels;
  }

  get lengthFrames(): number {
    return endOf(this.#sound.clips);
  }

  /** From where it begins to where it ends: a track that begins later is silent before. */
  get #whole(): Span {
    return { startFrame: this.#sound.clips[0]!.startFrame, endFrame: this.lengthFrames };
  }

  /** The time axis is that of the session: as long as its longest track. */
  setSessionFrames(frames: number): void {
    this.#sessionFrames = frames;
    this.view.setLength(Math.max(this.lengthFrames, frames));
  }

  /** Loudness and floor of the lanes in the loop (or the recording); null until they are measured. */
  get figures(): Figures | null {
    return this.#figures.now;
  }

  /** What each treatment does in the loop (or the recording); null until it is measured. */
  get effects(): Effects | null {
    return this.#details.all;
  }

  /** Long-term spectra of source and result; kept while somebody watches them. */
  get spectra(): Spectra | null {
    return this.#details.spectra;
  }

  /** What the noise reduction takes and costs at every depth; kept while somebody watches it. */
  get price(): ChainPrice | null {
    return this.#details.price;
  }

  readonly watchSpectra = (): (() => void) => this.#details.watchSpectra();
  readonly setWholeEffects = (effects: Effects): void => this.#details.setWhole(effects);
  readonly watchClip = (clipId: string | null): void => this.#details.watchClip(clipId);
  readonly watchPrice = (): (() => void) => this.#details.watchPrice();

  /** Lets what one treatment takes out be heard alone, or a narrow band at its place; null for the chain as it is. */
  hearAside(aside: Aside | null): void {
    this.#aside = aside;
    if (this.#spec) this.player.setChain(this.#heard(this.#spec), aside !== null);
  }

  /** The chain that sounds: with its times at the places where the clips stand. */
  #heard(chain: ChainSpec): ChainSpec {
    return heardChain(placedChain(chain, this.#sound.clips, this.sampleRateHz), this.#aside);
  }

  get #figuresOf(): FiguresOf {
    return { chain: this.#spec!, sound: this.#sound, profile: this.#profile, span: this.#figuresSpan };
  }

  /** What the figures are of, in words. */
  get figuresOf(): string {
    return wordsOfSpan(this.#figuresSpan, this.#whole, MOST_MEASURED_SECONDS * this.sampleRateHz);
  }

  /** What is known of the noise now; null while nothing is. */
  get profile(): NoiseProfile | null {
    return this.#profile;
  }

  readonly subscribe = this.#changes.subscribe;
  /** Calls back when new pictures have come, or the old ones are out of date. */
  readonly onPictures = this.#pictureChanges.subscribe;

  /** Follows the track: its clips and its chain are heard at once and drawn when they have settled. */
  setTrack(track: Track): void {
    const { chain, noise } = track;
    const sound = soundOf(track, noise?.kind === 'kept' ? this.#profile : null);
    const changed = !this.#spec || !sameSound(chain, this.#spec);
    const moved = !sameTrackSound(sound, this.#sound);
    const treats = moved && JSON.stringify(treatedSpans(this.#sound)) !== JSON.stringify(treatedSpans(sound));
    this.#track = track;
    this.#spec = chain;
    if (moved) this.#setSound(sound);
    if (changed) this.player.setChain(this.#heard(chain));
    if (changed || moved) this.#settle(changed || treats);
    // One that was measured before is as loud as the others at once.
    const known = this.#figures.known(this.#figuresOf);
    if (known) this.#figures.now = known;
    this.player.setLaneGains(this.laneGainsDb);
    this.#noise.follow(noise, chain, noisePlan(track));
  }

  #setSound(sound: TrackSound): void {
    const before = this.#whole;
    this.#sound = sound;
    this.#soundChanged = true;
    this.passage.prepareFor(sound);
    this.player.setSound(sound, this.#heard(this.#spec!));
    if (this.#profile?.places) this.player.setProfile(this.#placedProfile, this.#heard(this.#spec!));
    this.view.setLength(Math.max(this.lengthFrames, this.#sessionFrames));
    if (sameSpan(this.#figuresSpan, before)) this.#figuresSpan = this.#whole;
    this.#changes.tell();
  }

  /** The profile with its places where the clips stand. */
  get #placedProfile(): NoiseProfile | null {
    return this.#profile && placedProfile(this.#profile, this.#sound.clips);
  }

  #takeProfile(profile: NoiseProfile | null): void {
    this.#profile = profile;
    // A clip's own noise reduction weighs by the kept one too.
    if (this.#track?.noise?.kind === 'kept') this.setTrack(this.#track);
    this.player.setProfile(this.#placedProfile, this.#heard(this.#spec!));
    this.#settle();
    this.#changes.tell();
  }

  /** What repeats, and what figures are of; a span that is only heard for once (`heard`) repeats in its place. */
  setLoop(loop: Span | null, heard: Span | null = null): void {
    this.player.setLoop(heard ?? loop);
    const span = loop ?? this.#whole;
    if (sameSpan(span, this.#figuresSpan)) return;
    this.#figuresSpan = span;
    this.#figures.now = null;
    this.#details.clear();
    this.#settle(false);
    this.#changes.tell();
  }

  setEqualLoudness(on: boolean): void {
    this.#figures.equalLoudness = on;
    this.player.setLaneGains(this.laneGainsDb);
    this.#changes.tell();
  }

  /** What each lane is raised by, so that it is as loud as the source. */
  get laneGainsDb(): Readonly<Record<Lane, number>> {
    return this.#figures.gainsDb;
  }

  #settle(chainChanged = true): void {
    clearTimeout(this.#settling);
    // What only wants more figures must not swallow a change that still waits to be drawn.
    this.#chainChanged ||= chainChanged;
    this.#settling = setTimeout(() => {
      const pictures = this.#chainChanged;
      this.#chainChanged = false;
      const work = pictures ? this.passage.setChain(this.#spec!, this.#profile, treatedSpans(this.#sound)) : Promise.resolve();
      if (pictures) this.#pictureChanges.tell();
      if (this.#soundChanged) this.passage.setSound(this.#sound).catch(this.onTrouble);
      this.#soundChanged = false;
      const { version, soundVersion } = this.passage;
      const of = this.#figuresOf;
      const { span } = of;
      const current = (): boolean =>
        version === this.passage.version && soundVersion === this.passage.soundVersion && span === this.#figuresSpan;
      work
        .then(() => this.passage.figures(span))
        .then((figures) => {
          if (!current()) return;
          this.#figures.measured(of, figures);
          this.player.setLaneGains(this.laneGainsDb);
          this.#changes.tell();
          return this.#details.measure(span, current);
        })
        .catch(this.onTrouble);
    }, SETTLE_MS);
  }

  close(): void {
    clearTimeout(this.#settling);
    this.#noise.close();
    this.mixing.close();
    this.#changes.clear();
    this.#pictureChanges.clear();
    this.player.close();
    this.passage.close();
  }
}
