import {
  dbToGain,
  profileFromFile,
  type ChainSpec,
  type ListRow,
  type NoiseJudgement,
  type NoiseProfile,
  type Spoken,
} from '@euphonos/dsp';
import {
  endOf,
  mixChannels,
  mixedTracks,
  noisePlan,
  panGains,
  reelChannels,
  type SessionDocument,
  type Span,
  type Track,
} from '@euphonos/engine';
import { getProfileFile } from '../api/client.js';
import { soundOf } from '../audio/arranged.js';
import type { Player } from '../audio/player.js';
import { sourceOf } from '../audio/samples.js';
import type { Effects } from '../passage/figures-computer.js';
import type { Passage } from '../passage/passage.js';
import type { MixLoudness, TrackLevels } from '../passage/balance-levels.js';
import type { SpanSound } from '../passage/span-render.js';
import type { MixSpectra } from '../passage/mix-spectra.js';
import type { MixedTrack, WholeMix } from '../passage/mixed-sum.js';
import type { SpeechInMix } from '../passage/speech-in-mix.js';
import type { RestTrack } from '../passage/rest-sound.js';
import { WholeFollower } from './whole-follower.js';

const NO_CHAIN: ChainSpec = { treatments: [] };
const SILENT = [0, 0] as const;

/** What is heard of a session: one track by itself, or all of them; `solo` names those that are heard alone, if any. */
export interface Heard {
  readonly document: SessionDocument;
  readonly own: Track;
  readonly together: boolean;
  readonly solo: readonly string[];
}

/** Whether a track is heard where all are. */
export const isHeard = ({ id, muted }: Pick<Track, 'id' | 'muted'>, solo: readonly string[]): boolean =>
  solo.length > 0 ? solo.includes(id) : !muted;

/** Lets other tracks be heard beside the one that is worked on, and the chain on the whole. */
export class Mixing {
  readonly #whole: WholeFollower;
  #wish = 0;
  #keys = 0;
  readonly #levels = new Map<string, { readonly key: string; readonly levels: Promise<TrackLevels> }>();
  /** What each track's sound was made of, under the key that it had then. */
  readonly #known = new Map<string, { readonly key: string; readonly track: Track; readonly rest: Promise<RestTrack> }>();

  constructor(
    private readonly player: Player,
    private readonly passage: Passage,
    private readonly sampleRateHz: number,
    private readonly onTrouble: (error: unknown) => void,
    onProfile: () => void = () => undefined,
  ) {
    const mixOf = (document: SessionDocument): Promise<WholeMix> => this.#mixOf(document);
    this.#whole = new WholeFollower({ player, passage, mixOf, onTrouble, onProfile });
  }

  /** The noise of the whole; null while there is none, or it is being taken. */
  get wholeProfile(): NoiseProfile | null {
    return this.#whole.profile;
  }

  close(): void {
    this.#whole.close();
  }

  set({ document, own, together, solo }: Heard): void {
    const whole = together || document.tracks.length === 1 ? document.chain : NO_CHAIN;
    this.player.setTrackGain(!together ? 0 : isHeard(own, solo) ? own.gainDb : -Infinity);
    this.#whole.follow(document, whole, this.#mixKey(document));
    const wish = ++this.#wish;
    // As many channels as a render of it has; alone it has its own.
    const channels = together ? mixChannels([...mixedTracks(document), own]) : reelChannels(own.reel);
    const ownGains = together && channels === 2 ? panGains(own.pan) : ([1, 1] as const);
    const others = together ? document.tracks.filter(({ id }) => id !== own.id) : [];
    const lengthFrames = Math.max(...document.tracks.map(({ clips }) => endOf(clips)));
    if (others.length === 0) return this.player.setMix({ channels, ownGains, beside: [], lengthFrames });
    Promise.all(others.map((track) => this.#restOf(track))).then((tracks) => {
      if (wish !== this.#wish) return;
      this.passage.setRest(tracks);
      const beside = others.map((track, i) => {
        const gain = dbToGain(track.gainDb);
        const [left, right] = channels === 2 ? panGains(track.pan) : [1, 1];
        const { key } = tracks[i]!;
        return {
          id: track.id,
          key,
          lengthFrames: endOf(track.clips),
          channels: reelChannels(track.reel),
          gains: isHeard(track, solo) ? ([gain * left, gain * right] as const) : SILENT,
          chunk: (index: number) => this.passage.restChunk(track.id, index),
        };
      });
      this.player.setMix({ channels, ownGains, beside, lengthFrames });
    }, this.onTrouble);
  }

  /** What each treatment of the chain on the whole does to the mix, in a span of the session. */
  async wholeEffects(document: SessionDocument, span: Span): Promise<Effects> {
    return this.passage.wholeEffects(await this.#mixOf(document), span, this.wholeProfile);
  }

  /** How loud a track and its clips are where it stands in a mix of so many channels, before its own level; measured once for each state of it. */
  trackLevels(track: Track, channels: number): Promise<TrackLevels> {
    const rest = this.#restOf(track);
    const key = `${this.#known.get(track.id)!.key}/${channels}/${track.pan}`;
    const known = this.#levels.get(track.id);
    if (known?.key === key) return known.levels;
    const levels = rest.then((one) => this.passage.trackLevels(asItIs(one), channels === 2 ? panGains(track.pan) : [1]));
    this.#levels.set(track.id, { key, levels });
    levels.catch(() => this.#levels.delete(track.id));
    return levels;
  }

  /** How loud the mix is over time. */
  async mixLoudness(document: SessionDocument): Promise<MixLoudness> {
    return this.passage.mixLoudness(await this.#mixOf(document), this.wholeProfile);
  }

  /** Who speaks when on these tracks, and how far that stands above a bed, as they are in the mix. */
  async speechInMix(document: SessionDocument, speech: readonly Track[], bed: Track): Promise<SpeechInMix> {
    const channels = mixChannels([...mixedTracks(document), bed]);
    const placed = (track: Track): Promise<MixedTrack> => this.#placed(track, channels);
    return this.passage.speechInMix({
      speech: await Promise.all(speech.map(placed)),
      bed: await placed(bed),
      channels,
      sampleRateHz: this.sampleRateHz,
      lengthFrames: Math.max(...[...speech, bed].map(({ clips }) => endOf(clips))),
    });
  }

  /** Where somebody speaks on each of these tracks as it is in the mix, and how loud. */
  async talk(document: SessionDocument, tracks: readonly Track[]): Promise<(readonly Spoken[])[]> {
    const channels = mixChannels(mixedTracks(document));
    const placed = await Promise.all(tracks.map((track) => this.#placed(track, channels)));
    const lengthFrames = Math.max(...mixedTracks(document).map(({ clips }) => endOf(clips)));
    return this.passage.talk(placed, { channels, sampleRateHz: this.sampleRateHz, lengthFrames });
  }

  /** Long-term spectra of a span of what is mixed, in third octaves; its tracks may be others than those that are heard. */
  async spectra(document: SessionDocument, span: Span): Promise<MixSpectra> {
    return this.passage.mixSpectra(await this.#mixOf(document, this.#aside), span, this.wholeProfile);
  }

  /** A span of what is mixed, as it was recorded or through everything; its tracks may be others than those that are heard. */
  async rendered(document: SessionDocument, span: Span, which: 'source' | 'result'): Promise<SpanSound> {
    const mix = await this.#mixOf(document, this.#aside);
    const { wholeNoise } = document;
    const profile = wholeNoise.length > 0 && mix.chain.treatments.length > 0 ? await this.passage.wholeProfile(mix, wholeNoise) : null;
    return this.passage.renderSpan(mix, span, which, profile);
  }

  /** A track that may be another than the one that is heard: what is known of that one stays. */
  readonly #aside = (track: Track): Promise<RestTrack> => {
    const known = this.#known.get(track.id);
    return known && sameSound(known.track, track) ? known.rest : this.#madeOf(track, `aside${++this.#keys}`);
  };

  /** Where each of these tracks hears somebody else only, as rows of the treatment. */
  async bleed(tracks: readonly Track[]): Promise<ListRow[][]> {
    return this.passage.bleed(await Promise.all(tracks.map((track) => this.#restOf(track))));
  }

  /** What a span of the session would be worth as a noise passage of the whole. */
  async judgeWhole(document: SessionDocument, span: Span): Promise<NoiseJudgement> {
    return this.passage.judgeWhole(await this.#mixOf(document), span);
  }

  /** Names all that sounds in the mix that is rendered; nothing where nothing treats it. */
  #mixKey(document: SessionDocument): string {
    if (document.chain.treatments.length === 0) return '';
    const parts = mixedTracks(document).map((track) => {
      this.#restOf(track).catch(() => undefined);
      return [track.id, this.#known.get(track.id)!.key, track.gainDb, track.pan];
    });
    return parts.length === 0 ? '' : JSON.stringify(parts);
  }

  /** All that is rendered, as a worker is told of it. */
  async #mixOf(document: SessionDocument, made?: (track: Track) => Promise<RestTrack>): Promise<WholeMix> {
    const mixed = mixedTracks(document);
    const channels = mixChannels(mixed);
    const tracks = await Promise.all(mixed.map((track) => this.#placed(track, channels, made)));
    const lengthFrames = Math.max(...mixed.map(({ clips }) => endOf(clips)));
    return { tracks, channels, sampleRateHz: this.sampleRateHz, chain: document.chain, lengthFrames };
  }

  /** A track where it stands in a mix of so many channels. */
  async #placed(track: Track, channels: number, made = (one: Track): Promise<RestTrack> => this.#restOf(one)): Promise<MixedTrack> {
    const gain = dbToGain(track.gainDb);
    const [left, right] = channels === 2 ? panGains(track.pan) : ([1, 1] as const);
    return { track: asItIs(await made(track)), gains: [gain * left, gain * right] };
  }

  /** The same as long as reel, clips, chain and noise are: level, place and name are nothing to it. */
  #restOf(track: Track): Promise<RestTrack> {
    const known = this.#known.get(track.id);
    if (known && sameSound(known.track, track)) return known.rest;
    const key = `${++this.#keys}`;
    const rest = this.#madeOf(track, key);
    this.#known.set(track.id, { key, track, rest });
    rest.catch(() => this.#known.delete(track.id));
    return rest;
  }

  async #madeOf(track: Track, key: string): Promise<RestTrack> {
    const { id, reel, chain, noise } = track;
    const kept =
      noise?.kind === 'kept' ? profileFromFile(await getProfileFile(noise.profileId), this.sampleRateHz, reelChannels(reel)) : null;
    const spans = noisePlan(track);
    return {
      id,
      key,
      source: { ...sourceOf(reel), sampleRateHz: this.sampleRateHz },
      sound: soundOf(track, kept),
      chain,
      noise: kept ?? (spans.length > 0 ? spans : null),
    };
  }
}

/** Named by its state: what is measured of an earlier one goes on beside it, and neither is taken for the other. */
const asItIs = (track: RestTrack): RestTrack => ({ ...track, id: `${track.id}/${track.key}` });

const sameSound = (a: Track, b: Track): boolean =>
  a.reel === b.reel && a.clips === b.clips && a.chain === b.chain && a.noise === b.noise && a.roomTone === b.roomTone;
