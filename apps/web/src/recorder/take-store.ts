import type { StartTake, TakeGap, TakeMark } from '@euphonos/contracts';

/** What is kept of a take beside its samples. */
export interface KeptFacts {
  readonly take: StartTake;
  /** Who recorded it, where people have accounts; '' or left out: whoever is here. */
  readonly personId?: string;
  readonly startedAt: string;
  readonly marks: readonly TakeMark[];
  readonly gaps: readonly TakeGap[];
  /** How many frames it has, once it was ended. */
  readonly endedFrames: number | null;
}

/** Takes on this machine, so that they outlive the page, the server and the line between. Sizes are in samples of 32 bits. */
export interface TakeStore {
  /** Throws where another window has it. */
  open(id: string): Promise<OpenTake>;
  list(): Promise<readonly { readonly id: string; readonly facts: KeptFacts }[]>;
  remove(id: string): Promise<void>;
}

export interface OpenTake {
  /** Samples that are there. */
  readonly samples: number;
  /** Appends, and has them on the disk when it returns. Throws when the disk is full; then nothing of it is there. */
  append(samples: Float32Array): void;
  read(from: number, count: number): Float32Array;
  keepFacts(facts: KeptFacts): void;
  close(): void;
}

/** Files of the origin's own folder (OPFS), written synchronously: only in a worker. */
export class OpfsTakeStore implements TakeStore {
  async #folder(): Promise<FileSystemDirectoryHandle> {
    return (await navigator.storage.getDirectory()).getDirectoryHandle('takes', { create: true });
  }

  async #handle(name: string): Promise<FileSystemSyncAccessHandle> {
    return (await (await this.#folder()).getFileHandle(name, { create: true })).createSyncAccessHandle();
  }

  async open(id: string): Promise<OpenTake> {
    const sound = await this.#handle(`${id}.f32`);
    const facts = await this.#handle(`${id}.json`).catch((error: unknown) => {
      sound.close();
      throw error;
    });
    return new OpfsTake(sound, facts);
  }

  async list(): Promise<readonly { readonly id: string; readonly facts: KeptFacts }[]> {
    const folder = await this.#folder();
    const found: { id: string; facts: KeptFacts }[] = [];
    for await (const [name, handle] of folder as unknown as AsyncIterable<[string, FileSystemHandle]>) {
      const id = /^(.+)\.json$/.exec(name)?.[1];
      if (id === undefined) continue;
      const text = await (await (handle as FileSystemFileHandle).getFile()).text();
      try {
        found.push({ id, facts: JSON.parse(text) as KeptFacts });
      } catch {
        // A page that was killed before it had written them left no take to speak of.
      }
    }
    return found.sort((a, b) => (a.facts.startedAt < b.facts.startedAt ? -1 : 1));
  }

  async remove(id: string): Promise<void> {
    const folder = await this.#folder();
    for (const name of [`${id}.f32`, `${id}.json`]) await folder.removeEntry(name).catch(() => undefined);
  }
}

class OpfsTake implements OpenTake {
  #samples: number;

  constructor(
    private readonly sound: FileSystemSyncAccessHandle,
    private readonly facts: FileSystemSyncAccessHandle,
  ) {
    this.#samples = Math.floor(sound.getSize() / 4);
  }

  get samples(): number {
    return this.#samples;
  }

  append(samples: Float32Array): void {
    const bytes = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength);
    let written = 0;
    try {
      written = this.sound.write(bytes as Uint8Array<ArrayBuffer>, { at: 4 * this.#samples });
      this.sound.flush();
    } finally {
      if (written < bytes.length) this.sound.truncate(4 * this.#samples);
    }
    if (written < bytes.length) throw new DOMException('The disk is full.', 'QuotaExceededError');
    this.#samples += samples.length;
  }

  read(from: number, count: number): Float32Array {
    const out = new Float32Array(Math.max(0, Math.min(count, this.#samples - from)));
    this.sound.read(new Uint8Array(out.buffer), { at: 4 * from });
    return out;
  }

  keepFacts(facts: KeptFacts): void {
    const bytes = new TextEncoder().encode(JSON.stringify(facts));
    this.facts.truncate(0);
    this.facts.write(bytes, { at: 0 });
    this.facts.flush();
  }

  close(): void {
    this.sound.close();
    this.facts.close();
  }
}
