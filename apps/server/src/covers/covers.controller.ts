import { Controller, Get, HttpCode, Inject, Param, Post, Req, Res } from '@nestjs/common';
import { ApiConsumes, ApiOperation, ApiTags } from '@nestjs/swagger';
import { coverType, MOST_COVER_BYTES, type Cover } from '@euphonos/engine';
import type { Request, Response } from 'express';
import { readFile } from 'node:fs/promises';
import { MEDIA_STORE, type MediaStore } from '../media-store/media-store.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { Engineers } from '../rights/right.js';

/** Covers by hand: bytes in the store, named in the documents of sessions; one that none names is swept. */
@ApiTags('covers')
@Controller('api/covers')
export class CoversController {
  constructor(@Inject(MEDIA_STORE) private readonly store: MediaStore) {}

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
    return { sha256: sha, sizeBytes, type };
  }

  @Get(':sha256')
  @Engineers()
  @ApiOperation({ summary: 'A cover that was kept.' })
  async find(@Param('sha256') sha256: string, @Res() response: Response): Promise<void> {
    const known = /^[0-9a-f]{64}$/.test(sha256);
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
