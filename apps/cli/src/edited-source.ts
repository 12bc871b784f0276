import { rm } from 'node:fs/promises';
import {
  evenLevels,
  LevelTracker,
  makeRoomTone,
  roomToneGain,
  type ChainSpec,
  type LevelTrack,
  type PlanarBlock,
  type TreatmentSettings,
} from '@euphonos/dsp';
import {
  alignCuts,
  applyEdit,
  arrangedFrames,
  breathsEdit,
  createDocument,
  Levels,
  pausesEdit,
  placedChain,
  readArranged,
  reelFrames,
  type ClipsEdit,
  type PauseTone,
  type Span,
  type Track,
} from '@euphonos/engine';
import {
  asMediaError,
  decodeSound,
  RawWriter,
  readArrangedFiles,
  readReelSpan,
  ReelReader,
  type DecodeReport,
  type ReelFiles,
} from '@euphonos/media';
import type { SoundPart } from './noise.js';
import { findingsOf } from './survey.js';
import { UsageError } from './usage.js';

/** What is done by an edit of clips and not by the chain: pauses that are cut or filled, breaths that are filled. */
const edits: Readonly<Record<string, typeof pausesEdit>> = { pauses: pausesEdit, breaths: breathsEdit };
const isEdit = ({ kind, bypassed, way }: TreatmentSettings): boolean =>
  !bypassed && ((kind === 'pauses' && way !== 'lower') || (kind === 'breaths' && way === 'tone'));

/** Whether a chain file asks for more than treatments. */
export const wantsEdit = (chain: ChainSpec): boolean => chain.treatments.some(isEdit);

/** Whether what it cuts makes the sound shorter. */
export const changesLength = (chain: ChainSpec): boolean =>
  chain.treatments.some(
    (settings) => isEdit(settings) && settings.kind === 'pauses' && (settings['way'] === 'close' || settings['way'] === 'shorten'),
  );

/** Decodes a file once, so that its clips can be read in any order, and does to them what the chain asks for. */
export async function editedSource(
  sound: SoundPart,
  chain: ChainSpec,
  outPath: string,
  report: DecodeReport,
  note: (text: string) => void,
) {
  const { path, facts, channels } = sound;
  const { sampleRateHz } = facts;
  const paths = channels.map((_, c) => `${outPath}.channel-${c}`);
  const close = async (): Promise<void> => void (await Promise.all(paths.map((file) => rm(file, { force: true }))));
  try {
    const writers = paths.map((file) => new RawWriter(file));
    const tracker = new LevelTracker(sampleRateHz);
    let recordingFrames = 0;
    try {
      for await (const block of decodeSound(path, facts, { channels }, report)) {
        for (const [c, writer] of writers.entries()) await writer.write({ channels: [block.channels[c]!], frames: block.frames });
        tracker.process(block.channels, block.frames);
        recordingFrames += block.frames;
      }
    } finally {
      await Promise.all(writers.map((writer) => writer.finish()));
    }
    const wanted = chain.treatments.filter(isEdit);
    const tone: PauseTone | null = wanted.some(({ way }) => way === 'tone')
      ? await roomOf(sound, tracker.finish(), sampleRateHz, recordingFrames)
      : null;
    const document = createDocument({ id: 'file', name: path, lengthFrames: recordingFrames, sampleRateHz, channels: channels.length });
    const reel: readonly ReelFiles[] = [{ startFrame: 0, frames: recordingFrames, paths }];
    let edited = document;
    for (const settings of wanted) {
      const edit = edits[settings.kind]!(edited.tracks[0]!, settings, sampleRateHz, tone);
      if (!edit) continue;
      note(`${titleOf(edit)}.`);
      edited = applyEdit(
        edited,
        edit.type === 'cut-spans' && edit.close
          ? { ...edit, spans: await alignedIn(reel, edit.spans, edited.tracks[0]!, sampleRateHz) }
          : edit,
      );
    }
    const { clips, roomTone } = edited.tracks[0]! satisfies Track;
    const arrangement = { clips, recordingFrames, sampleRateHz, tone: roomTone ? await makeTone(reel, roomTone, sampleRateHz) : null };
    return {
      blocks: readArrangedFiles(reel, arrangement),
      frames: arrangedFrames(arrangement),
      chain: placedChain(chain, clips, sampleRateHz),
      levels: Levels.of(clips, recordingFrames, sampleRateHz),
      close,
    };
  } catch (error) {
    await close();
    throw asMediaError(error);
  }
}

/** Cuts at the places where the sound goes on best. */
async function alignedIn(
  reel: readonly ReelFiles[],
  spans: readonly Span[],
  { clips, reel: recorded }: Track,
  sampleRateHz: number,
): Promise<Span[]> {
  const files = await ReelReader.open(reel);
  try {
    const arrangement = { clips, recordingFrames: reelFrames(recorded), sampleRateHz, tone: null };
    return await alignCuts(
      spans,
      (from, to) => readArranged(arrangement, files.channels, (start, end) => files.read(start, end), from, to),
      sampleRateHz,
      arrangedFrames(arrangement),
    );
  } finally {
    await files.close();
  }
}

const titleOf = (edit: ClipsEdit): string => ('title' in edit ? (edit.title ?? edit.type) : edit.type);

async function makeTone(reel: readonly ReelFiles[], span: Span, sampleRateHz: number): Promise<PlanarBlock> {
  return makeRoomTone(await readReelSpan(reel, span.startFrame, span.endFrame), sampleRateHz);
}

/** The room that the survey finds, and the gain at which its tone meets the room elsewhere. Clips stand as they were recorded. */
async function roomOf({ path, channels }: SoundPart, track: LevelTrack, sampleRateHz: number, recordingFrames: number): Promise<PauseTone> {
  const findings = await findingsOf(path, channels);
  const [best] = findings.flatMap((finding) => (finding.kind === 'noise-passages' ? finding.spans : []));
  if (!best)
    throw new UsageError('The survey finds no passage with noise alone to make room tone of: choose another way for pauses and breaths.');
  const gain = roomToneGain(evenLevels(track), track.stepSeconds, best);
  return {
    passage: {
      startFrame: Math.round(best.startSeconds * sampleRateHz),
      endFrame: Math.min(recordingFrames, Math.round(best.endSeconds * sampleRateHz)),
    },
    gainDb: ({ startFrame, endFrame }) => gain({ startSeconds: startFrame / sampleRateHz, endSeconds: endFrame / sampleRateHz }),
  };
}
