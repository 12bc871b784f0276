import { createReadStream } from 'node:fs';
import { Controller, Get, Param, ParseUUIDPipe, Post, Query, Req, Res } from '@nestjs/common';
import { ApiConsumes, ApiOperation, ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import { UploadsService } from '../uploads/uploads.service.js';
import { log } from '../log.js';
import { BundlesService, type Outgoing } from './bundles.service.js';
import { Changes, Engineers } from '../rights/right.js';

@ApiTags('bundles')
@Controller('api')
export class BundlesController {
  constructor(
    private readonly bundles: BundlesService,
    private readonly uploads: UploadsService,
  ) {}

  @Get('sessions/:id/bundle')
  @Changes('session')
  @ApiOperation({ summary: 'The session with its recordings, profiles, chains and versions as one zip (docs/bundle.md).' })
  async ofSession(@Param('id', ParseUUIDPipe) id: string, @Res() response: Response): Promise<void> {
    send(response, await this.bundles.ofSession(id));
  }

  @Get('productions/:id/bundle')
  @Changes('production')
  @ApiOperation({ summary: 'All sessions of a production as one zip.' })
  async ofProduction(@Param('id', ParseUUIDPipe) id: string, @Res() response: Response): Promise<void> {
    send(response, await this.bundles.ofProduction(id));
  }

  @Post('bundles')
  @Engineers()
  @ApiConsumes('application/octet-stream')
  @ApiOperation({ summary: 'Brings a bundle in (the raw bytes as body): its sessions are made anew, all of them or none.' })
  bringIn(
    @Req() request: Request,
    @Query('upload', new ParseUUIDPipe({ optional: true })) uploadId: string | undefined,
  ): Promise<{ readonly sessionIds: readonly string[] }> {
    if (uploadId)
      return this.uploads.land(uploadId, (path, sizeBytes) => this.bundles.bringIn(createReadStream(path), sizeBytes, uploadId));
    const length = request.headers['content-length'];
    return this.bundles.bringIn(request, length === undefined ? undefined : Number(length));
  }
}

function send(response: Response, { stream, fileName }: Outgoing): void {
  response.attachment(fileName).type('application/zip');
  // What breaks off on the way is no whole zip, and the browser says so.
  stream.on('error', (error) => {
    log.warn({ err: error }, 'a bundle broke off');
    response.destroy();
  });
  response.on('close', () => stream.destroy());
  stream.pipe(response);
}
