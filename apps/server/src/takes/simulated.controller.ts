import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { Controller, Get, Inject, Res } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { notFound } from '../problems/app-problem.js';
import { SignedInOnly } from '../rights/right.js';

/** What the simulated microphone is made of: the demo's narrator, in their room. */
@ApiTags('takes')
@Controller('api/simulated-microphone')
export class SimulatedController {
  constructor(@Inject(SERVER_CONFIG) private readonly config: ServerConfig) {}

  @Get()
  @SignedInOnly()
  @ApiOperation({ summary: 'A talker in a room, for whoever has no microphone: FLAC. Not there where no demo is.' })
  talk(@Res() response: Response): void {
    const path = this.config.demoFolder && join(this.config.demoFolder, 'narrator.flac');
    if (!path || !existsSync(path)) throw notFound('simulated microphone');
    response.type('audio/flac').sendFile(path, { dotfiles: 'allow' });
  }
}
