import { Controller, Get, HttpCode, Inject, Param, Post, Req, Res } from '@nestjs/common';
import { ApiConsumes, ApiOperation, ApiTags } from '@nestjs/swagger';
import { coverType, MOST_COVER_BYTES, type Cover } from '@euphonos/engine';
import type { Request, Response } from 'express';
import { readFile } from 'node:fs/promises';
import { DataSource } from 'typeorm';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { asker, askerId, seesAll } from '../rights/asker.js';
import { Engineers } from '../rights/right.js';

/** A session that somebody ($2) hears has that cover ($1). */
const HEARD_WITH_IT = `
  SELECT FROM session LEFT JOIN production_person
    ON production_person.production_id = session.production_id AND production_person.person_id = $2
  WHERE document->'cover'->>'sha256' = $1 AND (session.made_by = $2 OR share IS NOT NULL) LIMIT 1`;

/** Until a session that names it is saved. */
const JUST_KEPT_MS = 3_600_000;

/** Covers by hand: bytes in the store, named in the documents of sessions; one that none names is swept. */
@ApiTags('covers')
@Controller('api/covers')
export class CoversController {
  /** Who kept which lately, and when. */
  readonly #kept = new Map<string, number>();

  constructor(
    @Inject(MEDIA_STORE) private readonly store: MediaStore,
    private readonly dataSource: DataSource,
  ) {}

  @Post()
  @Engineers()
  @HttpCode(201)
  @ApiConsumes('application/octet-stream')
  @ApiOperation({ summary: 'Keeps a JPEG or PNG of up to 5 MB (the raw bytes as body); a session names it by what is answered.' })
  async keep(@Req() request: Request): Promise<Cover> {
    const parts: Buffer[] = [];
    let sizeBytes = 0;
    for await (const part of request as AsyncIterable<Buffer>) {
      sizeBytes += part.length;
      if (sizeBytes > MOST_COVER_BYTES)
        throw new AppProblem(413, 'cover-refused', 'A cover has up to 5 MB; this picture is larger. Nothing was kept.');
      parts.push(part);
    }
    const bytes = Buffer.concat(parts);
    const type = coverType(bytes);
    if (!type) throw new AppProblem(422, 'cover-refused', 'A cover is a JPEG or a PNG; this file is neither. Nothing was kept.');
    const { sha } = await this.store.put(
      (async function* () {
        yield bytes;
      })(),
    );
    for (const [name, keptMs] of this.#kept) if (Date.now() - keptMs > JUST_KEPT_MS) this.#kept.delete(name);
    this.#kept.set(`${askerId()} ${sha}`, Date.now());
    return { sha256: sha, sizeBytes, type };
  }

  /** Whoever kept it, and whoever hears a session that has it. */
  async #mayHave(sha: string): Promise<boolean> {
    if (seesAll()) return true;
    const person = asker();
    if (!person) return false;
    if (this.#kept.has(`${person.personId} ${sha}`)) return true;
    return ((await this.dataSource.query(HEARD_WITH_IT, [sha, person.personId])) as unknown[]).length > 0;
  }

  @Get(':sha256')
  @Engineers()
  @ApiOperation({ summary: 'A cover that was kept, of a session that is heard by whoever asks.' })
  async find(@Param('sha256') sha256: string, @Res() response: Response): Promise<void> {
    const known = /^[0-9a-f]{64}$/.test(sha256) && (await this.#mayHave(sha256));
    const bytes = known
      ? await this.store
          .path(sha256)
          .then((path) => readFile(path))
          .catch(() => null)
      : null;
    const type = bytes && bytes.length <= MOST_COVER_BYTES ? coverType(bytes) : undefined;
    // Whatever else lies in the store is not handed out here.
    if (!bytes || !type) throw notFound('cover');
    response.type(type).setHeader('cache-control', 'private, max-age=31536000, immutable').send(bytes);
  }
}
