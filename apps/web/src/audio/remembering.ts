import { memoryKey, type ChainSpec, type NoiseProfile } from '@euphonos/dsp';
import { splitChain } from '@euphonos/engine';
import type { MemoryRequest } from '../passage/chain-memory.js';
import { MemoryFeed, type AskMemories } from './memory-feed.js';
import type { MonitorCommand } from './protocol.js';
import type { Supply } from './supply.js';

/** What it asks of the player. */
interface Hooks {
  readonly post: (command: MonitorCommand) => void;
  readonly onProgress: () => void;
  readonly onTrouble: (error: unknown) => void;
  /** Something plays that is not exact. */
  readonly urgent: () => boolean;
  readonly playing: () => boolean;
  /** What is rendered in the background is to be rendered again. */
  readonly renderAgain: (prepared: ChainSpec, key: string) => void;
}

/** What the chain of a track remembers: brought to the monitor as it is learnt, and taken into account in what is rendered in the background. */
export class Remembering {
  readonly #feed: MemoryFeed<MemoryRequest>;
  #spec: ChainSpec = { treatments: [] };
  #profiles = 0;
  /** The key of what was rendered in the background with all that it should remember. */
  #exactKey = '';

  constructor(
    ask: AskMemories<MemoryRequest>,
    private readonly supply: Supply,
    private readonly hooks: Hooks,
  ) {
    this.#feed = new MemoryFeed(
      ask,
      ({ whole }, spacingFrames, held) => hooks.post({ type: 'memories', key: memoryKey(whole), spacingFrames, held }),
      () => this.#learnt(),
      hooks.onTrouble,
      hooks.urgent,
      // What plays is rendered just in time, by a chain of which all would have to be learnt.
      () => hooks.playing() && memoryKey(splitChain(this.#spec).prepared) !== '',
    );
  }

  /** Up to which frame it is known what the chain remembers; Infinity when all is. */
  get knownFrames(): number {
    return this.#feed.knownFrames;
  }

  /** Follows the chain, on the clips as they are. One treatment heard alone is over before anything is learnt. */
  follow(whole: ChainSpec, profile: NoiseProfile | null, profiles: number): void {
    this.#spec = whole;
    this.#profiles = profiles;
    if (whole.alone !== undefined) return;
    const key = memoryKey(whole);
    if (key === '') return this.#feed.follow(null);
    const { sound, store } = this.supply;
    const preparedKey = this.supply.keyOf(splitChain(whole).prepared, profiles);
    this.#feed.follow({
      // With every profile that is taken the monitor forgets.
      key: JSON.stringify([key, preparedKey, profiles, store]),
      sound,
      whole,
      profile,
      preparedKey,
    });
  }

  /** What is rendered in the background is so from all that it should remember. */
  get preparedExact(): boolean {
    const { prepared } = splitChain(this.#spec);
    return memoryKey(prepared) === '' || this.#exactKey === this.supply.keyOf(prepared, this.#profiles);
  }

  /** That is rendered in the background from now on: from all that is known, when nothing else was learnt meanwhile. */
  switched(key: string): void {
    const own = this.supply.keyOf(splitChain(this.#spec).prepared, this.#profiles);
    this.#exactKey = key === own && this.knownFrames === Infinity ? key : '';
  }

  /** The monitor knows nothing (any more): it is told all. */
  again(): void {
    this.#feed.again();
  }

  close(): void {
    this.#feed.close();
  }

  /** What was rendered in the background without all that it should remember is rendered again once all is known. */
  #learnt(): void {
    const { prepared } = splitChain(this.#spec);
    const key = this.supply.keyOf(prepared, this.#profiles);
    if (this.knownFrames === Infinity && memoryKey(prepared) !== '' && this.supply.prepares(key) && this.#exactKey !== key) {
      this.hooks.renderAgain(prepared, key);
    }
    this.hooks.onProgress();
  }
}
