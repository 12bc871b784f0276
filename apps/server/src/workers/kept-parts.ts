import { appendFile } from 'node:fs/promises';
import type { MessagePort } from 'node:worker_threads';
import type { ChainSpec, ProcessorContext } from '@euphonos/dsp';
import { fitsMixLead, mixLeadFrames, PartNotes } from '@euphonos/engine';
import { behind, MediaError, mixedSources, mixTracks, type FileRequest, type MixPart } from '@euphonos/media';
import type { MediaStore } from '../media-store/media-store.js';
import type { PartMade, RenderTask } from './protocol.js';

type Sound = Pick<FileRequest, 'source' | 'parts'>;
type Task = Pick<RenderTask, 'parts' | 'port'>;

/** Has a part noted, and waits until it is. @throws {MediaError} `cancelled` */
function noted(port: MessagePort, part: PartMade, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const gone = (): void => reject(new MediaError('cancelled', 'Cancelled.'));
    if (signal.aborted) return gone();
    signal.addEventListener('abort', gone, { once: true });
    const told = (message: unknown): void => {
      if (message !== 'kept') return;
      port.off('message', told);
      signal.removeEventListener('abort', gone);
      resolve();
    };
    port.on('message', told);
    port.postMessage(part);
  });
}

/** How parts go into the store, and from there into the table. */
function keeping({ parts, port }: Task, notes: PartNotes, store: MediaStore, signal: AbortSignal) {
  return async (count: number, path: string): Promise<string> => {
    // Bytes of its own: nothing else can refer to them when they are let go.
    await appendFile(path, parts!.label);
    const { sha } = await store.adopt(path);
    await noted(port, { parts: count, sha, memories: notes.take(count) }, signal);
    return store.path(sha);
  };
}

const notesOf = ({ parts }: Task): PartNotes =>
  new PartNotes(parts?.held ? { part: parts.held.shas.length, memories: parts.held.memories } : undefined);

const pathsOf = ({ parts }: Task, store: MediaStore): Promise<string[]> =>
  Promise.all((parts?.held?.shas ?? []).map((sha) => store.path(sha)));

/** What one track by itself is rendered of. */
export async function oneTrack(task: Task, { source }: MixPart, store: MediaStore, signal: AbortSignal): Promise<Sound> {
  if (!task.parts) return { source: source(0) };
  const notes = notesOf(task);
  return {
    source: source(0),
    parts: {
      parting: notes.parting(0, task.parts.partFrames),
      paths: await pathsOf(task, store),
      heardFrom: source,
      source: () => source(0),
      keep: keeping(task, notes, store, signal),
    },
  };
}

export interface Mix {
  readonly tracks: readonly MixPart[];
  readonly context: ProcessorContext;
  /** On the whole. */
  readonly chain: ChainSpec;
}

/** What a mix is rendered of. Where the chain on the whole needs more of a lead than tracks give it, nothing is kept. */
export async function mixOf(task: Task, { tracks, context, chain }: Mix, store: MediaStore, signal: AbortSignal): Promise<Sound> {
  const { channels } = context;
  const partFrames = task.parts?.partFrames;
  if (partFrames === undefined || !fitsMixLead(context, chain, partFrames)) return { source: mixTracks(tracks, channels) };
  const notes = notesOf(task);
  const lead = mixLeadFrames(partFrames);
  const mix = (): ReturnType<typeof mixTracks> =>
    mixTracks(
      tracks,
      channels,
      tracks.map((_, i) => notes.parting(i, partFrames, lead)),
    );
  const beginFrame = (task.parts?.held?.shas.length ?? 0) * partFrames - lead;
  return {
    source: mix(),
    parts: {
      parting: notes.parting(tracks.length, partFrames),
      paths: await pathsOf(task, store),
      heardFrom: (frame) => behind(mix(), frame - beginFrame),
      source: () => mixedSources(tracks, channels),
      keep: keeping(task, notes, store, signal),
    },
  };
}
