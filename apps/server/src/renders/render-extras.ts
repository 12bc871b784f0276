import { Inject, Injectable } from '@nestjs/common';
import { endOf, partAt, rateOf, type FileSpec, type SessionDocument, type Track } from '@euphonos/engine';
import { movedTags, pictureEnding, readBroadcast, type Chapter, type FileExtras } from '@euphonos/media';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { AppProblem } from '../problems/app-problem.js';
import { RecordingsService } from '../recordings/recordings.service.js';
import type { RenderTask } from '../workers/protocol.js';
import type { RenderEntity } from './render.entity.js';

/** A name without its ending. */
export const titleOf = (fileName: string): string => fileName.replace(/\.[^.]+$/, '');

/** Passages with names are chapters, each up to its end or the next one; single places are none. */
function chaptersOf({ marks, tracks, sampleRateHz }: SessionDocument): Chapter[] {
  const end = Math.max(...tracks.map(({ clips }) => endOf(clips)));
  return marks
    .filter(({ startFrame, endFrame }) => endFrame !== null && startFrame < end)
    .map(({ name, startFrame, endFrame }, i, all) => ({
      title: name,
      startSeconds: startFrame / sampleRateHz,
      endSeconds: Math.min(end, endFrame!, all[i + 1]?.startFrame ?? end) / sampleRateHz,
    }));
}

/** Marks are cue points of a WAV. */
const cuesOf = ({ marks, sampleRateHz }: SessionDocument): NonNullable<FileExtras['cues']> =>
  marks.map(({ name, startFrame, endFrame, note }) => ({
    atSeconds: startFrame / sampleRateHz,
    seconds: endFrame === null ? null : (endFrame - startFrame) / sampleRateHz,
    name,
    note,
  }));

/** What a delivery holds besides its sound, from its session and the recordings that it is made of. */
@Injectable()
export class RenderExtras {
  constructor(
    private readonly recordings: RecordingsService,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
  ) {}

  async of(render: RenderEntity, document: SessionDocument, tracks: readonly Track[]): Promise<FileExtras> {
    const { piece, fileName } = render;
    return {
      tags: { ...document.tags, title: document.tags.title || titleOf(fileName) },
      chapters: piece ? [] : chaptersOf(document),
      cues: piece ? [] : cuesOf(document),
      ...(await this.#broadcastOf(piece?.file ?? document.target.file, document, tracks)),
    };
  }

  /** The cover of the delivery: by hand, else that of the one recording it is made of. */
  async coverOf({ cover }: SessionDocument, tracks: readonly Track[]): Promise<RenderTask['cover']> {
    if (cover) {
      if (!(await this.store.touch(cover.sha256)))
        throw new AppProblem(
          409,
          'cover-gone',
          'The cover of this session is not kept any more: choose it once more, or none (Hand over, Name and tags).',
        );
      return { path: await this.store.path(cover.sha256), isPicture: true };
    }
    const ids = new Set(tracks.flatMap(({ reel }) => reel.map(({ recordingId }) => recordingId)));
    const [id] = ids;
    return ids.size === 1 ? { path: (await this.recordings.original(id!)).path, isPicture: false } : null;
  }

  /** The ending of the picture that these tracks came with. @throws {AppProblem} `no-picture`, `not-its-length` */
  async requirePicture(document: SessionDocument, tracks: readonly Track[]): Promise<string> {
    const ids = new Set(tracks.flatMap(({ reel }) => reel.map(({ recordingId }) => recordingId)));
    const [id] = ids;
    const { fileName, facts } = await this.recordings.find(id!);
    if (ids.size !== 1 || !facts?.picture)
      throw new AppProblem(
        409,
        'no-picture',
        ids.size > 1
          ? 'What is rendered comes from several recordings; sound goes back into a picture only by itself. Render a sound file.'
          : facts?.picture === undefined
            ? `Of "${fileName}" it is not known whether it came with a picture: it was read by an earlier version. Bring it in again, or render a sound file.`
            : `"${fileName}" came without a picture. Render a sound file.`,
      );
    const frames = Math.max(...tracks.map(({ clips }) => endOf(clips)));
    if (frames !== facts.lengthFrames)
      throw new AppProblem(
        409,
        'not-its-length',
        `The edit is ${Math.abs((frames - facts.lengthFrames) / document.sampleRateHz).toFixed(3)} s ${frames < facts.lengthFrames ? 'shorter' : 'longer'} than its picture, and the sound would leave it. Give back what was cut, or render a sound file.`,
      );
    return pictureEnding(fileName) ?? 'mkv';
  }

  /** The picture that a render goes into, told by the ending of its name. */
  async pictureOf({ fileName, keepOthers }: RenderEntity, [track]: readonly Track[]): Promise<RenderTask['picture']> {
    const ending = pictureEnding(fileName);
    if (!ending) return null;
    const { originalSha } = await this.recordings.find(track!.reel[0]!.recordingId);
    return { originalPath: await this.store.path(originalSha), ending, keepOthers };
  }

  /** What the one recording that is rendered said of itself as a broadcast WAV, its time moved to where the session begins. */
  async #broadcastOf(file: FileSpec, { sampleRateHz }: SessionDocument, tracks: readonly Track[]): Promise<Pick<FileExtras, 'broadcast'>> {
    const [track] = tracks;
    if (file.format !== 'wav' || tracks.length !== 1 || !track!.clips[0]) return {};
    const part = partAt(track!.reel, track!.clips[0].source.startFrame);
    if (track!.clips.some(({ source }) => partAt(track!.reel, source.startFrame) !== part)) return {};
    const { originalSha, facts } = await this.recordings.find(part.recordingId);
    const said = facts?.format === 'wav' ? await readBroadcast(await this.store.path(originalSha)) : null;
    const [clip] = track!.clips;
    if (!said || !clip) return {};
    // Its reference counts frames of the file; clips count those of the session.
    const byFrames = ((clip.source.startFrame - part.startFrame - clip.startFrame) * facts!.fileSampleRateHz) / sampleRateHz;
    return { broadcast: movedTags(said.tags, byFrames, facts!.fileSampleRateHz, rateOf(file, sampleRateHz)) };
  }
}
