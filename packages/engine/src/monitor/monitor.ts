import { dbToGain, LEAD_SECONDS, type ChainSpec, type NoiseProfile, type PlanarBlock, type ProcessorContext } from '@euphonos/dsp';
import type { Span } from '../document/span.js';
import type { Levels } from '../arrangement/levels.js';
import { LaneMixer, type Lane } from './lane-mixer.js';
import { Hearing, type MonitorSource } from './hearing.js';
import type { SampleStore } from './sample-store.js';
import { Mixdown, type Mix } from './mixdown.js';
import { Timeline } from './timeline.js';
import { PlayFade } from './play-fade.js';
import type { Memories } from './memories.js';
import { QUANTUM_FRAMES } from './voice.js';
import { Voices } from './voices.js';

/** A chain that is not heard yet catches up at this many quanta a turn: 0.4 s and a latency of 60 ms in about 75 ms. */
const CHASE_QUANTA = 7;
/** At a start nothing sounds yet: the longer way from what is remembered is gone as fast. */
const START_QUANTA = 9;
/** So often it is looked whether what plays can be made exact. */
const REFINE_QUANTA = 32;
/** So much must be there before it starts, lest it stop again at once on a slow line. */
const PREROLL_FRAMES = 32768;
/** Crossfade to a new chain, and fade at start, stop and seek. */
const FADE_SECONDS = 0.008;

export type MonitorStatus = 'stopped' | 'starting' | 'playing' | 'waiting';

/**
 * What is heard: the recording through its chain, block by block, in real time. Values of a chain move in
 * place; a chain of another structure is built beside the one that sounds, catches up and is crossfaded to, so
 * nothing stops or clicks. Source, removed and result are aligned to the sample.
 */
export class Monitor {
  readonly mixer: LaneMixer;
  readonly #timeline: Timeline;
  readonly #fadeStep: number;
  readonly #leadFrames: number;
  readonly #hearing: Hearing;
  readonly #voices: Voices;
  #position = 0;
  readonly #fade: PlayFade;
  /** Frames that the chain on the whole hears unheard, before it is due. */
  #unheard = 0;
  #status: MonitorStatus = 'stopped';
  /** What happens when the fade-out is over: another place to play from, or null for a stop. */
  #afterFade: { readonly frame: number | null } | null = null;
  #loop: Span | null = null;
  #turns = 0;

  readonly #mixdown: Mixdown;

  constructor(context: Omit<ProcessorContext, 'noiseProfile'>, source: MonitorSource) {
    this.#timeline = new Timeline(context.channels, source.store);
    this.#hearing = new Hearing(context, this.#timeline, source);
    this.#fadeStep = 1 / (FADE_SECONDS * context.sampleRateHz);
    this.#fade = new PlayFade(this.#fadeStep);
    this.#mixdown = new Mixdown(context, this.#timeline, this.#fadeStep, source.levels);
    this.#leadFrames = Math.round(LEAD_SECONDS * context.sampleRateHz);
    this.mixer = new LaneMixer(context);
    this.#voices = new Voices(context.channels, this.#fadeStep, this.#hearing.createVoice());
  }

  get status(): MonitorStatus {
    return this.#status;
  }

  /** The frame of the recording that sounds now. */
  get frame(): number {
    return this.#timeline.frameAt(this.#position - this.#mixdown.latencyFrames);
  }

  /** True while it fades out at one place, to go on at another or to stop. */
  get leaving(): boolean {
    return this.#afterFade !== null;
  }

  get latencyFrames(): number {
    return this.#voices.sounding.latencyFrames;
  }

  /**
   * A chain and its profile. `prepared` is what it hears when its first part was rendered in the background: the
   * chain before goes on until enough of that is there; `whole` is that part and the chain together. Only values changed: they glide. Anything else: crossfade to a new chain.
   */
  setChain(
    spec: ChainSpec,
    profile: NoiseProfile | undefined,
    prepared: SampleStore = this.#hearing.latestSource.store,
    whole: ChainSpec = spec,
  ): void {
    const { newest } = this.#voices;
    const sameSound = this.#hearing.setChain(spec, profile, prepared, whole) && prepared === newest.sound.store;
    if (this.#hearing.awaitsSource || (sameSound && newest.setParameters(spec, whole))) return;
    const voice = this.#hearing.createVoice();
    if (this.#status !== 'stopped') this.#hearing.start(voice, this.#position);
    if (this.#status === 'playing') this.#voices.follow(voice);
    else this.#voices.replace(voice);
  }

  /** Another source, and the chain for it: fades out, and goes on at `frame` of the new one. */
  setSource(source: MonitorSource, spec: ChainSpec, frame: number, prepared: SampleStore = source.store, whole: ChainSpec = spec): void {
    this.#hearing.setSource({ source, spec, prepared, whole });
    if (this.#status === 'stopped') this.#takeSource();
    else if (this.#fade.silent) this.#begin(frame);
    else this.#afterFade = { frame };
  }

  /** What clips do to the level; while playing it is gone over to. */
  setLevels(levels: Levels | null): void {
    if (this.#hearing.setLevels(levels)) this.#mixdown.levels.set(levels, this.#status === 'playing');
  }

  /** The other tracks, and where this one stands among them. They come and go without a stop; another number of channels starts here again. */
  setMix(mix: Mix): void {
    if (this.#mixdown.setMix(mix)) this.seek(this.frame);
  }

  /** How many of the other tracks are to be heard and still rendered. */
  get awaited(): number {
    return this.#status === 'stopped' ? 0 : this.#mixdown.awaited;
  }

  /** The chain on the whole. Values move in place; anything else starts here again, after a short fade. */
  setWhole(spec: ChainSpec, noiseProfile?: NoiseProfile): void {
    if (this.#mixdown.setWhole(spec, noiseProfile)) this.seek(this.frame);
  }

  #takeSource(): void {
    if (!this.#hearing.takeSource()) return;
    this.#mixdown.levels.set(this.#hearing.source.levels, false);
    this.#voices.replace(this.#hearing.createVoice());
  }

  /** What is heard is what a render makes of it, wherever it started. */
  get exact(): boolean {
    return this.#voices.newest.exact && this.#mixdown.exact;
  }

  /** What the chain remembers of the recording, as far as it is known; null when there is none of this sound, or of this profile. */
  setMemories(memories: Memories | null): void {
    this.#hearing.memories = memories;
  }

  /** What the chain on the whole remembers of the session; counts from the next start on, so that nothing that plays is interrupted. */
  setWholeMemories(memories: Memories | null): void {
    this.#mixdown.memories = memories;
  }

  /** What plays without what it should remember is gone over to what knows it, once that is there. */
  #refine(): void {
    if (this.#voices.newest.exact || this.#voices.changing || this.#hearing.awaitsSource || this.#afterFade) return;
    if (!this.#hearing.knows(this.#voices.newest, this.#position)) return;
    const voice = this.#hearing.createVoice();
    this.#hearing.start(voice, this.#position);
    this.#voices.follow(voice);
  }

  setLane(lane: Lane): void {
    this.mixer.setLane(lane);
  }

  /** Extra gain a lane, in dB, that makes the lanes equally loud; zeros for none. */
  setLaneGains(gainsDb: Readonly<Record<Lane, number>>): void {
    this.mixer.setGains({ source: dbToGain(gainsDb.source), removed: dbToGain(gainsDb.removed), result: dbToGain(gainsDb.result) });
  }

  /** The span that repeats, or null. While playing, what was read ahead must still fit; else it starts again here. */
  setLoop(loop: Span | null): void {
    this.#loop = loop && loop.endFrame - loop.startFrame >= QUANTUM_FRAMES ? loop : null;
    // On its way to another place already: the loop counts from there on.
    if (this.#status === 'stopped' || this.#afterFade) return;
    const now = this.frame;
    const aheadFrames = this.#voices.sounding.aheadFrames + QUANTUM_FRAMES;
    const ahead = this.#timeline.frameAt(this.#position + aheadFrames);
    this.#timeline.anchor(this.#position - this.#mixdown.latencyFrames, now, this.#loop);
    if (this.#timeline.frameAt(this.#position + aheadFrames) !== ahead || this.#voices.changing) this.seek(now);
  }

  play(frame: number): void {
    if (this.#status === 'stopped') this.#begin(frame);
    else this.seek(frame);
  }

  seek(frame: number): void {
    if (this.#status === 'stopped') return;
    if (this.#fade.silent) this.#begin(frame);
    else this.#afterFade = { frame };
  }

  stop(): void {
    if (this.#fade.silent) this.#status = 'stopped';
    else this.#afterFade = { frame: null };
  }

  /** Writes one quantum. */
  process(output: PlanarBlock): void {
    for (const samples of output) samples.fill(0);
    if (this.#status === 'stopped') return;
    if (this.#status !== 'playing' && !this.#prime()) return;
    if (++this.#turns % REFINE_QUANTA === 0) this.#refine();
    this.#voices.chase(this.#position, CHASE_QUANTA);
    if (!this.#mixdown.advance(this.#position, this.#voices)) {
      // On the way to another place, or to a stop, what is missing here is no longer needed.
      if (this.#afterFade) return this.#leave(this.#afterFade);
      // Nothing moved: when the samples arrive it goes on from here, with its chain primed again.
      this.#begin(this.frame);
      this.#status = 'waiting';
      return;
    }
    this.#position += QUANTUM_FRAMES;
    this.mixer.process(this.#mixdown.dry, this.#mixdown.own, this.#mixdown.mix, output, QUANTUM_FRAMES);
    const silent = this.#fade.apply(output, QUANTUM_FRAMES, this.#afterFade !== null);
    if (silent && this.#afterFade) this.#leave(this.#afterFade);
    else if (this.frame >= this.#lengthFrames && !this.#afterFade) this.#status = 'stopped';
  }

  /** Where the session ends. */
  get #lengthFrames(): number {
    return Math.max(this.#hearing.source.lengthFrames, this.#mixdown.lengthFrames);
  }

  #begin(frame: number): void {
    this.#takeSource();
    this.#mixdown.start();
    this.mixer.setChannels(this.#mixdown.channels);
    const start = Math.max(0, Math.min(frame, this.#lengthFrames - 1));
    this.#voices.replace(this.#voices.newest);
    this.#afterFade = null;
    this.#fade.reset();
    this.#timeline.anchor(this.#position, start, this.#loop);
    this.#unheard = 0;
    if (!this.#mixdown.plain) {
      // It hears so much before unheard; then what it is late by.
      const before = start - this.#mixdown.startWhole(start, this.#leadFrames);
      this.#position -= before;
      this.#unheard = before + this.#mixdown.latencyFrames;
    }
    this.#hearing.start(this.#voices.sounding, this.#position);
    this.#status = 'starting';
  }

  /** Runs the chain up to where it is due. False while it is not there, or samples are missing. */
  #prime(): boolean {
    if (!this.#hearing.source.store.covers(this.frame, PREROLL_FRAMES)) {
      this.#status = 'waiting';
      return false;
    }
    const { sounding } = this.#voices;
    if (!sounding.catchUp(this.#position, START_QUANTA)) {
      if (sounding.starved) this.#status = 'waiting';
      return false;
    }
    for (let quanta = START_QUANTA; this.#unheard >= QUANTUM_FRAMES; this.#unheard -= QUANTUM_FRAMES) {
      if (quanta-- === 0) return false;
      if (this.#mixdown.advance(this.#position, this.#voices)) {
        this.#position += QUANTUM_FRAMES;
        continue;
      }
      this.#status = 'waiting';
      return false;
    }
    this.#status = 'playing';
    return true;
  }

  #leave({ frame }: { readonly frame: number | null }): void {
    this.#afterFade = null;
    if (frame !== null) return this.#begin(frame);
    this.#status = 'stopped';
    this.#takeSource();
  }
}
