import { open } from 'node:fs/promises';

/** A place of a WAV with a name, or a stretch of it: a cue point (Multimedia Programming Interface 1.0, 3-16), its label and its length. */
export interface Cue {
  readonly frame: number;
  /** null for a single place. */
  readonly frames: number | null;
  readonly name: string;
  readonly note: string;
}

const MOST_CUES = 2000;
const MOST_CHUNKS = 400;
const MOST_BYTES = 8 << 20;
const CUE_BYTES = 24;

const padded = (bytes: Buffer): Buffer => (bytes.length % 2 ? Buffer.concat([bytes, Buffer.alloc(1)]) : bytes);
function chunk(id: string, content: Buffer): Buffer {
  const head = Buffer.alloc(8);
  head.write(id, 0, 'latin1');
  head.writeUInt32LE(content.length, 4);
  return Buffer.concat([head, padded(content)]);
}
/** Texts end with a zero. They are written as UTF-8, which is ASCII where it can be. */
const text = (value: string): Buffer => Buffer.from(`${value.replace(/\0/g, '')}\0`, 'utf8');

/** The chunks "cue " and "LIST" of type adtl that say these cues. */
function cueChunks(cues: readonly Cue[]): Buffer {
  const points = Buffer.alloc(4 + CUE_BYTES * cues.length);
  points.writeUInt32LE(cues.length, 0);
  const told: Buffer[] = [Buffer.from('adtl', 'latin1')];
  cues.forEach(({ frame, frames, name, note }, i) => {
    const id = i + 1;
    const at = 4 + CUE_BYTES * i;
    points.writeUInt32LE(id, at);
    points.writeUInt32LE(frame, at + 4);
    points.write('data', at + 8, 'latin1');
    points.writeUInt32LE(frame, at + 20);
    const numbered = (value: string): Buffer => {
      const head = Buffer.alloc(4);
      head.writeUInt32LE(id, 0);
      return Buffer.concat([head, text(value)]);
    };
    told.push(chunk('labl', numbered(name)));
    if (note) told.push(chunk('note', numbered(note)));
    if (frames === null) return;
    const length = Buffer.alloc(20);
    length.writeUInt32LE(id, 0);
    length.writeUInt32LE(frames, 4);
    length.write('rgn ', 8, 'latin1');
    told.push(chunk('ltxt', length));
  });
  return Buffer.concat([chunk('cue ', points), chunk('LIST', Buffer.concat(told))]);
}

/** Puts cues behind the sound of a WAV. One beyond 4 GiB (RF64), whose sizes stand elsewhere, is left as it is: false. */
export async function addCues(path: string, cues: readonly Cue[]): Promise<boolean> {
  const kept = cues.filter(({ frame }) => frame <= 0xffffffff).slice(0, MOST_CUES);
  if (kept.length === 0) return false;
  const file = await open(path, 'r+');
  try {
    const { size } = await file.stat();
    const { buffer } = await file.read(Buffer.alloc(8), 0, 8, 0);
    const chunks = cueChunks(kept);
    const start = size + (size % 2);
    if (buffer.toString('latin1', 0, 4) !== 'RIFF' || start + chunks.length > 0xffffffff) return false;
    if (start > size) await file.write(Buffer.alloc(1), 0, 1, size);
    await file.write(chunks, 0, chunks.length, start);
    buffer.writeUInt32LE(start + chunks.length - 8, 4);
    await file.write(buffer, 0, 8, 0);
    return true;
  } finally {
    await file.close();
  }
}

/** Cues of a WAV in the order of time; none of other files. Frames are those of the file. */
export async function readCues(path: string): Promise<readonly Cue[]> {
  const file = await open(path, 'r').catch(() => null);
  if (!file) return [];
  try {
    const read = async (at: number, length: number): Promise<Buffer | null> => {
      const { buffer, bytesRead } = await file.read(Buffer.alloc(length), 0, length, at);
      return bytesRead === length ? buffer : null;
    };
    if (!/^(RIFF|RF64)....WAVE$/s.test((await read(0, 12))?.toString('latin1') ?? '')) return [];
    const places = new Map<number, number>();
    const said = new Map<number, { name?: string; note?: string; frames?: number }>();
    for (let at = 12, n = 0; n < MOST_CHUNKS; n++) {
      const header = await read(at, 8);
      if (!header) break;
      const id = header.toString('latin1', 0, 4);
      let size: number = header.readUInt32LE(4);
      // Of an RF64 the length of the sound stands in ds64.
      if (id === 'data' && size === 0xffffffff) size = Number((await read(28, 8))?.readBigUInt64LE() ?? 0n);
      if ((id === 'cue ' || id === 'LIST') && size <= MOST_BYTES) {
        const content = await read(at + 8, size);
        if (content && id === 'cue ') readPoints(content, places);
        if (content && id === 'LIST' && content.toString('latin1', 0, 4) === 'adtl') readTold(content, said);
      }
      at += 8 + size + (size % 2);
    }
    return [...places]
      .map(([id, frame]): Cue => {
        const { name = '', note = '', frames } = said.get(id) ?? {};
        return { frame, frames: frames ? frames : null, name, note };
      })
      .sort((a, b) => a.frame - b.frame);
  } finally {
    await file.close();
  }
}

function readPoints(content: Buffer, places: Map<number, number>): void {
  const count = content.length < 4 ? 0 : Math.min(content.readUInt32LE(0), MOST_CUES);
  for (let i = 0; i < count && 4 + CUE_BYTES * (i + 1) <= content.length; i++) {
    const at = 4 + CUE_BYTES * i;
    places.set(content.readUInt32LE(at), content.readUInt32LE(at + 20));
  }
}

/** UTF-8 where it is some, else Latin-1: older programs write what their system has. */
function textOf(bytes: Buffer): string {
  const until = bytes.indexOf(0);
  const part = until < 0 ? bytes : bytes.subarray(0, until);
  const utf8 = part.toString('utf8');
  return utf8.includes('\ufffd') ? part.toString('latin1') : utf8;
}

function readTold(content: Buffer, said: Map<number, { name?: string; note?: string; frames?: number }>): void {
  for (let at = 4; at + 12 <= content.length;) {
    const kind = content.toString('latin1', at, at + 4);
    const size = content.readUInt32LE(at + 4);
    const part = content.subarray(at + 8, at + 8 + size);
    if (part.length >= 4) {
      const id = part.readUInt32LE(0);
      const known = said.get(id) ?? {};
      if (kind === 'labl') known.name = textOf(part.subarray(4));
      if (kind === 'note') known.note = textOf(part.subarray(4));
      if (kind === 'ltxt' && part.length >= 8) known.frames = part.readUInt32LE(4);
      said.set(id, known);
    }
    at += 8 + size + (size % 2);
  }
}
