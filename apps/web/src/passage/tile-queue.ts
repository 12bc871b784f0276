/** Requests under way at once: the worker does one after the other, so more would only be late. */
const MOST_COMING = 2;
const MOST_KEPT = 600;

/** Names a tile; `version` is the state of the chain it was made of. */
export interface TileName {
  readonly key: string;
  readonly version: number;
}

interface Wanted<Tile> extends TileName {
  readonly fetch: () => Promise<Tile>;
}

/**
 * Tiles of pictures, fetched on demand: what an asker asks for in a frame replaces what it asked for before, so that
 * scrolling past does not leave a queue behind. A tile of an older version is given until the new one is there.
 */
export class TileQueue<Tile> {
  readonly #kept = new Map<string, { version: number; tile: Tile }>();
  readonly #coming = new Set<string>();
  readonly #wanted = new Map<string, Wanted<Tile>[]>();

  constructor(
    private readonly onArrival: () => void,
    private readonly onTrouble: (error: unknown) => void,
  ) {}

  /** Forgets what an asker asked for, before its new frame asks. */
  startFrame(asker: string): void {
    this.#wanted.set(asker, []);
  }

  /** The tile if it is there (maybe of an older version); otherwise, and then too, it is fetched. */
  want(asker: string, name: TileName, fetch: () => Promise<Tile>): Tile | undefined {
    const kept = this.#kept.get(name.key);
    if (kept) {
      // Latest used last, so that the first of the map is the one to let go.
      this.#kept.delete(name.key);
      this.#kept.set(name.key, kept);
    }
    if (kept?.version !== name.version) this.#wanted.get(asker)?.push({ ...name, fetch });
    return kept?.tile;
  }

  /** True while something that was asked for is not there yet. */
  get waiting(): boolean {
    return this.#coming.size > 0 || [...this.#wanted.values()].some((list) => list.length > 0);
  }

  /** Fetches what was asked for, one of each asker in turn. */
  endFrame(): void {
    while (this.#coming.size < MOST_COMING) {
      const next = this.#next();
      if (!next) return;
      const id = `${next.version}/${next.key}`;
      if (this.#coming.has(id)) continue;
      this.#coming.add(id);
      next
        .fetch()
        .then((tile) => this.#keep(next, tile), this.onTrouble)
        .finally(() => {
          this.#coming.delete(id);
          this.endFrame();
        });
    }
  }

  #next(): Wanted<Tile> | undefined {
    for (const [asker, list] of this.#wanted) {
      const next = list.shift();
      if (!next) continue;
      // Whoever has been served stands last in the row.
      this.#wanted.delete(asker);
      this.#wanted.set(asker, list);
      return next;
    }
    return undefined;
  }

  #keep({ key, version }: TileName, tile: Tile): void {
    const before = this.#kept.get(key);
    if (before && before.version > version) return;
    this.#kept.set(key, { version, tile });
    if (this.#kept.size > MOST_KEPT) this.#kept.delete(this.#kept.keys().next().value!);
    this.onArrival();
  }
}
