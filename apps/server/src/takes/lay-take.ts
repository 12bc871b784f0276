import { asPlaced } from '@euphonos/contracts';
import { needsProfile, type SpanSeconds } from '@euphonos/dsp';
import {
  applyEdit,
  chainOfFile,
  endOf,
  MOST_MARKS,
  MOST_PARTS,
  partEnd,
  type ChainFile,
  type Edit,
  type Mark,
  type NoiseSource,
  type SessionDocument,
  type Track,
} from '@euphonos/engine';
import { randomUUID } from 'node:crypto';
import type { RecordingEntity } from '../recordings/recording.entity.js';
import type { TakeEntity } from './take.entity.js';

/** Between takes on a track. */
const APART_SECONDS = 1;
const MARK_WORDS = { good: 'good', bad: 'bad', again: 'again', mark: 'mark' } as const;

/** A take with its recording, which has been read. */
export interface LaidTake {
  readonly take: TakeEntity;
  readonly recording: RecordingEntity;
}

/** What is known when a take is laid. */
export interface Laying {
  /** Nobody has worked on the session, and no take is in it yet. */
  readonly first: boolean;
  readonly noise: NoiseSource | null;
  readonly pausesOf: (recordingId: string) => readonly SpanSeconds[] | null;
}

const holds = ({ reel }: Track, recordingId: string): boolean => reel.some((part) => part.recordingId === recordingId);

/**
 * The document with a take in it: behind the others on their track, with its marks; the first one brings its chain and its noise along. A
 * gate that knows who talks learns where nobody does.
 * @param known all takes that are in the session by then, this one too
 */
export function layTakes(
  document: SessionDocument,
  known: readonly LaidTake[],
  take: TakeEntity,
  { first, noise, pausesOf }: Laying,
): { readonly document: SessionDocument; readonly edits: readonly Edit[] } {
  const { recording } = known.find((one) => one.take.id === take.id)!;
  const edits: Edit[] = [];
  let next = document;
  const apply = (edit: Edit): void => {
    edits.push(edit);
    next = applyEdit(next, edit);
  };
  const trackOf = (): Track | undefined => next.tracks.find((track) => holds(track, recording.id));
  if (!trackOf()) {
    // Behind the others on their track; on another one where that holds no more.
    const others = next.tracks.filter((track) => known.some((one) => holds(track, one.recording.id)));
    const beside = others.at(-1) ?? next.tracks[0]!;
    const placed = { recording: asPlaced(recording), startFrame: endOf(beside.clips) + APART_SECONDS * document.sampleRateHz };
    if (beside.reel.length < MOST_PARTS) apply({ type: 'add-recording', trackId: beside.id, ...placed });
    else apply({ type: 'add-track', newId: randomUUID(), ...placed });
  }
  const track = trackOf()!;
  const part = track.reel.find(({ recordingId }) => recordingId === recording.id)!;
  const clip = track.clips.find(({ source }) => source.startFrame >= part.startFrame && source.startFrame < partEnd(part));
  const marks = marksOf(take, clip?.startFrame ?? 0, part.frames, document.sampleRateHz).slice(0, MOST_MARKS - next.marks.length);
  if (marks.length > 0) apply({ type: 'add-marks', marks });
  if (first && take.chain) next = withChain(next, take.chain, noise);
  for (const { treatmentId, quiet } of quietGates(trackOf()!, document.sampleRateHz, pausesOf))
    apply({ type: 'set-parameters', trackId: track.id, treatmentId, values: { quiet } });
  return { document: next, edits };
}

function withChain(document: SessionDocument, file: ChainFile, noise: NoiseSource | null): SessionDocument {
  const chain = chainOfFile(file, randomUUID);
  const weighs = chain.treatments.some(needsProfile);
  return { ...document, tracks: document.tracks.map((track) => ({ ...track, chain, noise: weighs ? noise : track.noise })) };
}

function quietGates(track: Track, rateHz: number, pausesOf: Laying['pausesOf']) {
  const gates = track.chain.treatments.filter(({ kind, listens }) => kind === 'gate' && (listens === 'talk' || listens === 'words'));
  const quiet = gates.length === 0 ? [] : quietOnReel(track, rateHz, pausesOf);
  return gates.flatMap(({ id }) => (id === undefined ? [] : [{ treatmentId: id, quiet }]));
}

/** The whole take, and what was said of moments of it. */
function marksOf(take: TakeEntity, startFrame: number, frames: number, rateHz: number): Mark[] {
  const scale = rateHz / take.sampleRateHz;
  const at = (frame: number): number => startFrame + Math.min(frames - 1, Math.round(frame * scale));
  const mark = (name: string, start: number, end: number | null, note = ''): Mark => ({
    id: randomUUID(),
    name,
    startFrame: start,
    endFrame: end,
    note,
  });
  const last = [...take.marks].reverse().find(({ kind }) => kind !== 'mark');
  return [
    mark(`${take.name}${last ? ` · ${MARK_WORDS[last.kind]}` : ''}`, startFrame, startFrame + frames, take.device),
    ...take.marks.map(({ kind, frame }) => mark(`${take.name}: ${MARK_WORDS[kind]}`, at(frame), null)),
    ...take.gaps.map((gap) => mark(`${take.name}: ${gap.frames} samples missing`, at(gap.frame), null, 'By the clock of the device.')),
  ];
}

/** A gate that knows who talks leaves so much around what a survey calls talk: voiceless beginnings and ends are not in it. */
const BEFORE_WORDS_SECONDS = 0.25;
const AFTER_WORDS_SECONDS = 0.4;

/** Where nobody talks on a track, in seconds of its reel, from the surveys of its recordings. */
export function quietOnReel(
  { reel }: Track,
  rateHz: number,
  pausesOf: (recordingId: string) => readonly SpanSeconds[] | null,
): { startSeconds: number; endSeconds: number }[] {
  return reel.flatMap((part) => {
    const offset = part.startFrame / rateHz;
    const length = part.frames / rateHz;
    return (pausesOf(part.recordingId) ?? []).flatMap(({ startSeconds, endSeconds }) => {
      const from = startSeconds <= 0 ? 0 : startSeconds + AFTER_WORDS_SECONDS;
      const to = endSeconds >= length - 0.05 ? length : endSeconds - BEFORE_WORDS_SECONDS;
      const round = (seconds: number): number => Math.round((offset + seconds) * 1000) / 1000;
      return to - from > 0.05 ? [{ startSeconds: round(from), endSeconds: round(to) }] : [];
    });
  });
}
