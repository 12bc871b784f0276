import { Inject, Injectable } from '@nestjs/common';
import { findingsFor } from '@euphonos/dsp';
import {
  makeReport,
  parseDocument,
  requireTrack,
  speechBand,
  WHOLE,
  type ReceivedFrom,
  type Report,
  type SessionDocument,
} from '@euphonos/engine';
import { asDataUrl } from '@euphonos/media';
import { DataSource } from 'typeorm';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { AppProblem } from '../problems/app-problem.js';
import { RecordingsService } from '../recordings/recordings.service.js';
import { RendersService } from '../renders/renders.service.js';
import { SurveyEntity } from '../surveys/survey.entity.js';
import { WorkPool } from '../workers/work-pool.js';

/** Of so many recordings pictures are shown: a report is a page. */
const MOST_PICTURES = 6;

/** What was received, found, done and measured of a delivery. */
@Injectable()
export class ReportsService {
  constructor(
    private readonly dataSource: DataSource,
    private readonly renders: RendersService,
    private readonly recordings: RecordingsService,
    private readonly pool: WorkPool,
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
  ) {}

  /** @throws {AppProblem} `not-ready` for a delivery without a sheet */
  async of(renderId: string): Promise<Report> {
    const render = await this.renders.find(renderId);
    const { report, fileSha, fileName } = render;
    if (!report || !fileSha)
      throw new AppProblem(
        409,
        'not-ready',
        'A report is made of a delivery that is finished and was checked; this one is not, or it is a stem.',
      );
    const whole = parseDocument(render.document);
    const alone = render.trackId !== null && render.trackId !== WHOLE;
    const document: SessionDocument = alone
      ? { ...whole, tracks: [requireTrack(whole, render.trackId!)], chain: { treatments: [] } }
      : whole;
    const picture = await this.pool.picture({ path: await this.store.path(fileSha), of: 'result' });
    const band = speechBand(document.target);
    return makeReport({
      title: fileName.replace(/\.[^.]+$/, ''),
      madeAt: render.finishedAt ?? render.createdAt,
      fileName,
      document,
      received: await this.#received(document),
      target: document.target,
      sheet: report.lines,
      work: report.work,
      after: report.after,
      loudness: {
        before: report.loudnessBefore,
        after: report.loudnessAfter,
        stepSeconds: report.loudnessStepSeconds,
        band: band && [band.lufs - band.toleranceLu, band.lufs + band.toleranceLu],
      },
      picture: asDataUrl(Buffer.from(picture.png, 'base64')),
    });
  }

  async #received({ tracks }: SessionDocument): Promise<ReceivedFrom[]> {
    const heard = new Map<string, Set<number>>();
    for (const { reel } of tracks)
      for (const { recordingId, channels } of reel) heard.set(recordingId, new Set([...(heard.get(recordingId) ?? []), ...channels]));
    return Promise.all(
      [...heard].map(async ([id, channels], i): Promise<ReceivedFrom> => {
        const { fileName, facts, originalSha } = await this.recordings.find(id);
        const survey = await this.dataSource.manager.findOneBy(SurveyEntity, { recordingId: id });
        const picture = i < MOST_PICTURES ? await this.pool.picture({ path: await this.store.path(originalSha), of: 'source' }) : null;
        return {
          fileName,
          codec: facts!.codec,
          fileSampleRateHz: facts!.fileSampleRateHz,
          channels: facts!.channels,
          seconds: facts!.lengthFrames / facts!.sampleRateHz,
          figures: facts!.figures,
          notes: facts!.notes,
          findings: survey?.survey ? findingsFor(survey.survey.findings, [...channels].sort()) : [],
          picture: picture && asDataUrl(Buffer.from(picture.png, 'base64')),
        };
      }),
    );
  }
}
