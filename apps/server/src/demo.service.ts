import { createReadStream } from 'node:fs';
import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { Inject, Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import { applyEdit, type Edit, type SessionDocument } from '@euphonos/engine';
import { DataSource } from 'typeorm';
import { SERVER_CONFIG, type ServerConfig } from './config.js';
import { log } from './log.js';
import { ProductionsService } from './productions/productions.service.js';
import { IntakeService } from './recordings/intake.service.js';
import { RecordingsService } from './recordings/recordings.service.js';
import { SessionRecordingEntity } from './sessions/session-recording.entity.js';
import { SessionEntity } from './sessions/session.entity.js';

const PRODUCTION = 'The Tidemill Tour';
/** Each by itself; the guide was filmed, her sound is the same. */
const SINGLE = ['boatwright', 'guide', 'miller', 'narrator'];
/** All in one session, in the order of the tour: where each begins, how loud and where it stands. */
const TOGETHER = [
  { name: 'narrator', startSeconds: 5, pan: 0, gainDb: 0 },
  { name: 'miller', startSeconds: 58, pan: -0.25, gainDb: -2 },
  { name: 'boatwright', startSeconds: 84, pan: 0.3, gainDb: 1 },
  { name: 'guide', startSeconds: 103, pan: 0.15, gainDb: 0 },
  { name: 'bed', startSeconds: 0, pan: 0, gainDb: -8 },
];
/** Of a machine that has much else to do. */
const LONGEST_WAIT_MS = 1_200_000;

const title = (name: string): string => (name === 'bed' ? 'Bed' : `The ${name}`);

/** Brings in the demo when there is no session at all: on the first start. */
@Injectable()
export class DemoService implements OnApplicationBootstrap {
  constructor(
    private readonly dataSource: DataSource,
    private readonly intake: IntakeService,
    private readonly recordings: RecordingsService,
    private readonly productions: ProductionsService,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    const { demoFolder } = this.config;
    if (!demoFolder || (await this.dataSource.manager.count(SessionEntity)) > 0) return;
    const there = new Set(await readdir(demoFolder).catch(() => []));
    if (!SINGLE.some((name) => there.has(`${name}.flac`))) return;
    const { id: productionId } = await this.productions.make(PRODUCTION);
    const bringIn = (name: string, into = {}, file = `${name}.flac`): Promise<{ sessionId: string }> =>
      this.intake.bringIn(file, createReadStream(join(demoFolder, file)), undefined, into);
    for (const name of SINGLE.filter((each) => there.has(`${each}.flac`)))
      await this.#name(
        (await bringIn(name, {}, there.has(`${name}.mov`) ? `${name}.mov` : undefined)).sessionId,
        title(name),
        productionId,
      );
    let tour: string | undefined;
    for (const { name } of TOGETHER.filter((one) => there.has(`${one.name}.flac`)))
      tour = (await bringIn(name, tour ? { sessionId: tour } : { placing: 'tracks' })).sessionId;
    await this.#name(tour!, 'The whole tour', productionId);
    log.info('demo brought in');
    // The start does not wait until all has been read.
    void this.#layOut(tour!).catch((error: unknown) => log.warn({ err: error }, 'the demo could not be laid out'));
  }

  async #name(id: string, name: string, productionId: string): Promise<void> {
    await this.dataSource.manager.update(SessionEntity, { id }, { name, productionId });
  }

  /** Once all of it has been read: everybody at their place in the tour, before anybody can open it. */
  async #layOut(sessionId: string): Promise<void> {
    for (const end = Date.now() + LONGEST_WAIT_MS; Date.now() < end; await wait(500)) {
      const held = await this.dataSource.manager.findBy(SessionRecordingEntity, { sessionId });
      if (held.some(({ recording: { job } }) => job.state === 'queued' || job.state === 'running')) continue;
      return this.recordings.gathered(sessionId, laidOut);
    }
  }
}

function laidOut(document: SessionDocument): SessionDocument {
  const frames = (seconds: number): number => Math.round(seconds * document.sampleRateHz);
  const edits = document.tracks.flatMap(({ id: trackId, name }): Edit[] => {
    const place = TOGETHER.find((one) => one.name === name);
    if (!place) return [];
    const role = name === 'bed' ? ('bed' as const) : ('speech' as const);
    return [
      { type: 'shift-track', trackId, byFrames: frames(place.startSeconds) },
      { type: 'set-track', trackId, name: title(name), role, pan: place.pan, gainDb: place.gainDb },
    ];
  });
  const marks = TOGETHER.filter(({ name }) => name !== 'bed').map(({ name, startSeconds }): Edit => ({
    type: 'add-mark',
    mark: { id: `demo-${name}`, name: title(name), startFrame: frames(startSeconds), endFrame: null, note: '' },
  }));
  return [...edits, ...marks].reduce(applyEdit, document);
}
