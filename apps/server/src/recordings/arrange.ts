import { randomUUID } from 'node:crypto';
import { asPlaced } from '@euphonos/contracts';
import { applyEdit, chainOfFile, createDocument, type SessionDocument } from '@euphonos/engine';
import type { EntityManager } from 'typeorm';
import type { JobEntity } from '../jobs/job.entity.js';
import { ChainEntity } from '../chains/chain.entity.js';
import { SessionRecordingEntity } from '../sessions/session-recording.entity.js';
import { listed, SessionEntity } from '../sessions/session.entity.js';
import { RecordingEntity } from './recording.entity.js';

/** Makes a job that reads a recording. */
export type ReadAgain = (manager: EntityManager, sessionId: string, recordingId: string) => Promise<JobEntity>;

/**
 * Makes the document of a session out of its recordings, once none is to come any more and all have been read or could not be. The first
 * one's rate is that of the session; what has another is read again. Called in the transaction that changed something of it.
 * @returns the jobs that are to be announced
 */
export async function arrange(
  manager: EntityManager,
  sessionId: string,
  readAgain: ReadAgain,
  lay: (document: SessionDocument) => SessionDocument = (document) => document,
): Promise<JobEntity[]> {
  const session = await manager.findOne(SessionEntity, {
    where: { id: sessionId },
    lock: { mode: 'pessimistic_write' },
  });
  if (!session || session.document || session.gathering) return [];
  const held = await manager.find(SessionRecordingEntity, { where: { sessionId }, order: { place: 'ASC' } });
  const recordings = held.map(({ recording }) => recording);
  if (recordings.some(({ job }) => job.state === 'queued' || job.state === 'running')) return [];
  const read = recordings.filter(({ facts }) => facts !== null);
  if (session.toBe) return restore(manager, session, read.length === recordings.length);
  const [first] = read;
  if (!first) return [];
  const { sampleRateHz } = first.facts!;
  const others = read.filter(({ facts }) => facts!.sampleRateHz !== sampleRateHz);
  if (others.length > 0) {
    const jobs: JobEntity[] = [];
    for (const { id } of others) {
      const job = await readAgain(manager, sessionId, id);
      await manager.update(RecordingEntity, { id }, { rateHz: sampleRateHz, job });
      jobs.push(job);
    }
    return jobs;
  }
  const placed = createDocument(read.map(asPlaced), session.placing, startFrames(read, sampleRateHz));
  const document = lay(await withUsualChain(manager, placed));
  await manager.update(SessionEntity, { id: sessionId }, { document, ...listed(document), revision: 1, updatedAt: new Date() });
  return [];
}

/** A session out of a bundle is what it was there, once all of it has been read. */
async function restore(manager: EntityManager, { id, toBe }: SessionEntity, complete: boolean): Promise<JobEntity[]> {
  if (complete)
    await manager.update(
      SessionEntity,
      { id },
      { document: toBe!, toBe: null, ...listed(toBe!), revision: RESTORED, updatedAt: new Date() },
    );
  return [];
}
/** Somebody has worked on it. */
const RESTORED = 2;

/** With the chain that every recording gets that comes in, if there is one. */
async function withUsualChain(manager: EntityManager, document: SessionDocument): Promise<SessionDocument> {
  const usual = await manager.findOneBy(ChainEntity, { forNew: true });
  if (!usual) return document;
  const trackIds = document.tracks.map(({ id }) => id);
  return applyEdit(document, { type: 'take-chain', name: usual.name, chain: chainOfFile(usual.file, randomUUID), trackIds });
}

/** Where recordings start that state when they were made: the earliest at the beginning. Those that do not state it begin there too. */
function startFrames(recordings: readonly RecordingEntity[], sampleRateHz: number): number[] {
  const stated = recordings.map(({ facts }) => facts!.startSeconds ?? null);
  const earliest = Math.min(...stated.filter((seconds) => seconds !== null));
  // Clocks that differ by more than a day's half were never set alike.
  const far = stated.some((seconds) => seconds !== null && seconds - earliest > MOST_APART_SECONDS);
  return stated.map((seconds) => (seconds === null || far ? 0 : Math.round((seconds - earliest) * sampleRateHz)));
}

const MOST_APART_SECONDS = 12 * 3600;
