import { memoryKey, withoutDeep, type ChainSpec, type NoiseProfile } from '@euphonos/dsp';
import type { SessionDocument } from '@euphonos/engine';
import { MemoryFeed } from '../audio/memory-feed.js';
import type { Player } from '../audio/player.js';
import type { WholeMix } from '../passage/mixed-sum.js';
import type { Passage } from '../passage/passage.js';
import type { WholeRequest } from '../passage/whole-memory.js';
import { NoiseFollower } from './noise-follower.js';

interface Asked {
  readonly player: Player;
  readonly passage: Passage;
  /** All that is rendered of a session, as a worker is told of it. */
  readonly mixOf: (document: SessionDocument) => Promise<WholeMix>;
  readonly onTrouble: (error: unknown) => void;
  readonly onProfile: () => void;
}

/** The chain on the whole as it is heard: with the noise of the sum, and with what it remembers of it. Both are taken again when something in the mix changes. */
export class WholeFollower {
  /** The noise of the whole; null while there is none, or it is being taken. */
  profile: NoiseProfile | null = null;
  readonly #noise: NoiseFollower;
  readonly #memory: MemoryFeed<WholeRequest>;
  #document: SessionDocument | null = null;
  #chain: ChainSpec | null = null;
  #mixKey = '';
  #memoryKey = '';
  /** Counts the profiles taken. */
  #profiles = 0;

  constructor(private readonly asked: Asked) {
    const { player, passage, mixOf, onTrouble } = asked;
    this.#noise = new NoiseFollower({
      profile: async (spans) => passage.wholeProfile(await mixOf(this.#document!), spans),
      kept: () => Promise.reject(new Error('The whole has no kept profile.')),
      take: (profile) => this.#takeProfile(profile),
      onTrouble,
    });
    this.#memory = new MemoryFeed<WholeRequest>(
      (request, from) => passage.wholeMemories(request, from),
      ({ mix }, spacingFrames, held) => player.setWholeMemories({ key: keyOf(mix.chain), spacingFrames, held }),
      () => player.setWholeKnown(this.#memory.knownFrames),
      onTrouble,
      () => player.playing && !player.exact,
      () => player.awaited > 0,
    );
  }

  /** `chain` is what is heard of the chain on the whole; `mixKey` names all that sounds in the mix. */
  follow(document: SessionDocument, chain: ChainSpec, mixKey: string): void {
    this.#document = document;
    this.#mixKey = mixKey;
    if (chain !== this.#chain) this.asked.player.setWhole(chain, this.profile);
    this.#chain = chain;
    const { wholeNoise: spans } = document;
    const sounds = mixKey !== '' && spans.length > 0;
    this.#noise.follow(sounds ? { kind: 'passages', spans } : null, document.chain, spans, mixKey);
    this.#remember();
  }

  #takeProfile(profile: NoiseProfile | null): void {
    if (profile === this.profile) return;
    this.profile = profile;
    this.#profiles++;
    if (this.#chain) this.asked.player.setWhole(this.#chain, profile);
    this.#remember();
    this.asked.onProfile();
  }

  /** What the chain remembers is learnt anew when it is of another sum, of another profile, or of other settings. */
  #remember(): void {
    const own = this.#chain && this.#mixKey !== '' ? keyOf(this.#chain) : '';
    const key = own && JSON.stringify([own, this.#mixKey, this.#profiles]);
    if (key === this.#memoryKey) return;
    this.#memoryKey = key;
    const { player, mixOf, onTrouble } = this.asked;
    player.setWholeMemories({ key: '', spacingFrames: 0, held: [] });
    this.#memory.follow(null);
    player.setWholeKnown(key === '' ? Infinity : 0);
    if (key === '') return;
    mixOf(this.#document!).then((mix) => {
      if (key === this.#memoryKey) this.#memory.follow({ key, mix, profile: this.profile });
    }, onTrouble);
  }

  close(): void {
    this.#noise.close();
    this.#memory.close();
  }
}

const keyOf = (chain: ChainSpec): string => memoryKey(withoutDeep(chain));
