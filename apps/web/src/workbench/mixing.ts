import { profileFromFile, type ChainSpec } from '@euphonos/dsp';
import { endOf, noiseSpans, reelChannels, type Track } from '@euphonos/engine';
import { getProfileFile } from '../api/client.js';
import { soundOf } from '../audio/arranged.js';
import type { Player } from '../audio/player.js';
import { sourceOf } from '../audio/samples.js';
import type { Passage } from '../passage/passage.js';
import type { RestTrack } from '../passage/rest-sound.js';

/** Lets other tracks be heard beside the one that is worked on, and the chain on the whole. */
export class Mixing {
  #others: readonly Track[] = [];
  #whole: ChainSpec | null = null;

  constructor(
    private readonly player: Player,
    private readonly passage: Passage,
    private readonly sampleRateHz: number,
    private readonly onTrouble: (error: unknown) => void,
  ) {}

  /** The level of the track among the others, these, and the chain on the whole. None: it is heard by itself. */
  set(gainDb: number, others: readonly Track[], whole: ChainSpec): void {
    this.player.setTrackGain(gainDb);
    if (whole !== this.#whole) this.player.setWhole(whole);
    this.#whole = whole;
    if (others.length === this.#others.length && others.every((track, i) => track === this.#others[i])) return;
    this.#others = others;
    if (others.length === 0) return this.player.setRest(null);
    Promise.all(others.map((track) => this.#restOf(track))).then((tracks) => {
      if (others !== this.#others) return;
      this.passage.setRest(tracks);
      this.player.setRest({
        lengthFrames: Math.max(...others.map(({ clips }) => endOf(clips))),
        chunk: (index) => this.passage.restChunk(index),
      });
    }, this.onTrouble);
  }

  async #restOf(track: Track): Promise<RestTrack> {
    const { reel, chain, gainDb, noise } = track;
    const kept =
      noise?.kind === 'kept' ? profileFromFile(await getProfileFile(noise.profileId), this.sampleRateHz, reelChannels(reel)) : null;
    const spans = noiseSpans(track);
    return {
      source: { ...sourceOf(reel), sampleRateHz: this.sampleRateHz },
      sound: soundOf(track),
      chain,
      gainDb,
      noise: kept ?? (spans.length > 0 ? spans : null),
    };
  }
}
