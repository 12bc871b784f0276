import { Body, Controller, Get, Param, ParseEnumPipe, ParseIntPipe, ParseUUIDPipe, Post, Query, Req, Res } from '@nestjs/common';
import { ApiConsumes, ApiOperation, ApiTags } from '@nestjs/swagger';
import { TakeDriftOut, type RecordingCue, type RecordingView } from '@euphonos/contracts';
import type { Placing } from '@euphonos/engine';
import type { Request, Response } from 'express';
import type { RecordingBlobs } from './recording.entity.js';
import { recordingView } from './recording-view.js';
import { IntakeService, type BringInto, type Landed } from './intake.service.js';
import { SamplesService } from './samples.service.js';
import { RecordingsService } from './recordings.service.js';
import { etagOf } from '../media-store/media-store.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { asker } from '../rights/asker.js';
import { RightsService } from '../rights/rights.service.js';
import { UploadsService } from '../uploads/uploads.service.js';
import { About, Changes, Engineers, Hears } from '../rights/right.js';

/** How several recordings make a session. */
const PLACINGS: Readonly<Record<Placing, Placing>> = { tracks: 'tracks', sequence: 'sequence' };
const A_YEAR_MS = 365 * 24 * 3600 * 1000;

@ApiTags('recordings')
@Controller('api/recordings')
export class RecordingsController {
  constructor(
    private readonly recordings: RecordingsService,
    private readonly intake: IntakeService,
    private readonly sampleFiles: SamplesService,
    private readonly uploads: UploadsService,
    private readonly rights: RightsService,
  ) {}

  @Post()
  @Engineers()
  @Changes('session', 'query.session')
  @Changes('batch', 'query.batch')
  @About('session', 'answer.sessionId')
  @ApiConsumes('application/octet-stream')
  @ApiOperation({
    summary:
      'Brings in a sound or video file (the raw bytes as body, or `upload`: what has come in parts) and makes a session of it, or adds it to one. With `placing` the session waits for more.',
  })
  bringIn(
    @Query('name') name: string | undefined,
    @Query('session', new ParseUUIDPipe({ optional: true })) sessionId: string | undefined,
    @Query('placing', new ParseEnumPipe(PLACINGS, { optional: true })) placing: Placing | undefined,
    @Query('batch', new ParseUUIDPipe({ optional: true })) batchId: string | undefined,
    @Query('upload', new ParseUUIDPipe({ optional: true })) uploadId: string | undefined,
    @Req() request: Request,
  ): Promise<Landed> {
    const length = request.headers['content-length'];
    const expected = length === undefined ? undefined : Number(length);
    const into = { sessionId, placing, batchId };
    return uploadId
      ? this.#land(String(name ?? 'recording'), uploadId, into)
      : this.intake.bringIn(String(name ?? 'recording'), request, expected, into);
  }

  /** What has come in parts; asked for again, because the answer was not heard, it is there once. */
  async #land(name: string, recordingId: string, into: BringInto): Promise<Landed> {
    return this.uploads
      .land(recordingId, (path, sizeBytes) => this.intake.bringInFile(name, path, sizeBytes, { ...into, recordingId }))
      .catch(async (error: unknown) => {
        const known = error instanceof AppProblem && error.code === 'upload-gone' ? await this.intake.landed(recordingId) : null;
        if (known && (await this.#mayHear(known.sessionId))) return known;
        throw error;
      });
  }

  async #mayHear(sessionId: string): Promise<boolean> {
    const person = asker();
    return !person || (await this.rights.may(person, 'session', sessionId)) !== null;
  }

  @Post(':id/without-drift')
  @Hears('recording')
  @Changes('session', 'body.sessionId')
  @ApiOperation({ summary: 'The recording once more, with the drift of its clock taken out by resampling.' })
  withoutDrift(@Param('id', ParseUUIDPipe) id: string, @Body() { sessionId, ppm }: TakeDriftOut): Promise<Landed> {
    return this.recordings.withoutDrift(id, sessionId, ppm);
  }

  @Get(':id')
  @Hears('recording')
  async find(@Param('id', ParseUUIDPipe) id: string): Promise<RecordingView> {
    return recordingView(await this.recordings.find(id));
  }

  @Get(':id/file')
  @Hears('recording')
  @ApiOperation({ summary: 'The file as it was brought in; answers range requests.' })
  async file(@Param('id', ParseUUIDPipe) id: string, @Res() response: Response): Promise<void> {
    const { path, fileName } = await this.recordings.original(id);
    send(response, path, mediaType(fileName));
  }

  @Get(':id/cues')
  @Hears('recording')
  @ApiOperation({ summary: 'Places and stretches with names that the file brought along (cue points of a WAV), in seconds.' })
  cues(@Param('id', ParseUUIDPipe) id: string): Promise<readonly RecordingCue[]> {
    return this.recordings.cues(id);
  }

  @Get(':id/channels/:channel')
  @Hears('recording')
  @ApiOperation({ summary: 'Samples of a channel, 32-bit float, little endian; answers range requests.' })
  async samples(
    @Param('id', ParseUUIDPipe) id: string,
    @Param('channel', ParseIntPipe) channel: number,
    @Res() response: Response,
  ): Promise<void> {
    if (!(await this.recordings.find(id)).blobs?.channels[channel]) throw notFound('channel of the recording');
    const [path] = await this.sampleFiles.paths(id, [channel]);
    send(response, path!);
  }

  @Get(':id/peaks')
  @Hears('recording')
  @ApiOperation({ summary: 'Peaks pyramid: least, greatest and mean square of each bucket, coarsest level first.' })
  async peaks(@Param('id', ParseUUIDPipe) id: string, @Res() response: Response): Promise<void> {
    send(response, await this.recordings.blobPath(id, ({ peaks }) => peaks));
  }

  @Get(':id/peaks/:channel')
  @Hears('recording')
  @ApiOperation({ summary: 'The peaks pyramid of one channel; of a recording that was read before there were any, that of all channels.' })
  async channelPeaks(
    @Param('id', ParseUUIDPipe) id: string,
    @Param('channel', ParseIntPipe) channel: number,
    @Res() response: Response,
  ): Promise<void> {
    const pick = ({ channels, peaks, channelPeaks }: RecordingBlobs): string | undefined =>
      channels[channel] === undefined ? undefined : (channelPeaks?.[channel] ?? peaks);
    send(response, await this.recordings.blobPath(id, pick));
  }

  @Get(':id/picture')
  @Hears('recording')
  @ApiOperation({ summary: 'A small copy of its moving picture, without sound: VP8 in WebM; answers range requests.' })
  async picture(@Param('id', ParseUUIDPipe) id: string, @Res() response: Response): Promise<void> {
    send(
      response,
      await this.recordings.blobPath(id, ({ picture }) => (picture && 'sha' in picture ? picture.sha : undefined)),
      'video/webm',
    );
  }

  @Get(':id/spectrogram')
  @Hears('recording')
  @ApiOperation({ summary: 'Coarse spectrogram: 128 rows, a column every 8192 frames, half decibels from -130 dBFS.' })
  async spectrogram(@Param('id', ParseUUIDPipe) id: string, @Res() response: Response): Promise<void> {
    send(response, await this.recordings.blobPath(id, ({ spectrogram }) => spectrogram));
  }
}

/** Kinds of files that a browser plays, by their endings; it is told nothing of any other, and takes none for what it is not. */
const MEDIA_TYPES: Readonly<Record<string, string>> = {
  wav: 'audio/wav',
  flac: 'audio/flac',
  mp3: 'audio/mpeg',
  m4a: 'audio/mp4',
  aac: 'audio/aac',
  ogg: 'audio/ogg',
  oga: 'audio/ogg',
  opus: 'audio/ogg',
  mp4: 'video/mp4',
  webm: 'video/webm',
};
const mediaType = (fileName: string): string =>
  MEDIA_TYPES[/\.([a-z0-9]+)$/i.exec(fileName)?.[1]?.toLowerCase() ?? ''] ?? 'application/octet-stream';

/** What a recording is made of never changes: the browser may keep it. */
function send(response: Response, path: string, type = 'application/octet-stream'): void {
  response.type(type);
  response.setHeader('etag', etagOf(path));
  response.sendFile(path, { maxAge: A_YEAR_MS, immutable: true, acceptRanges: true, lastModified: false, dotfiles: 'allow' });
}
