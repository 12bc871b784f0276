import { Body, Controller, Get, Param, ParseUUIDPipe, Post, Res } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { StartRender, type RenderView } from '@euphonos/contracts';
import type { Response } from 'express';
import { RendersService } from './renders.service.js';

@ApiTags('renders')
@Controller('api')
export class RendersController {
  constructor(private readonly renders: RendersService) {}

  @Post('sessions/:id/renders')
  start(@Param('id', ParseUUIDPipe) id: string, @Body() { revision, trackId }: StartRender): Promise<RenderView> {
    return this.renders.start(id, revision, trackId);
  }

  @Get('sessions/:id/renders')
  list(@Param('id', ParseUUIDPipe) id: string): Promise<RenderView[]> {
    return this.renders.list(id);
  }

  @Post('renders/:id/cancel')
  cancel(@Param('id', ParseUUIDPipe) id: string): Promise<RenderView> {
    return this.renders.cancel(id);
  }

  @Get('renders/:id/file')
  @ApiOperation({ summary: 'The finished file, a 24-bit WAV.' })
  async file(@Param('id', ParseUUIDPipe) id: string, @Res() response: Response): Promise<void> {
    const { path, fileName } = await this.renders.file(id);
    response.type('audio/wav');
    response.download(path, fileName, { dotfiles: 'allow' });
  }
}
