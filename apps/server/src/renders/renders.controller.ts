import { Body, Controller, Get, Param, ParseUUIDPipe, Post, Res } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { StartPieces, StartRender, StartStems, type RenderView } from '@euphonos/contracts';
import type { Response } from 'express';
import { etagOf } from '../media-store/media-store.js';
import { RendersService } from './renders.service.js';
import { Changes, Hears } from '../rights/right.js';

@ApiTags('renders')
@Controller('api')
export class RendersController {
  constructor(private readonly renders: RendersService) {}

  @Post('sessions/:id/renders')
  @Changes('session')
  start(@Param('id', ParseUUIDPipe) id: string, @Body() { revision, trackId, intoPicture, keepOthers }: StartRender): Promise<RenderView> {
    return this.renders.start(id, revision, trackId, intoPicture, keepOthers);
  }

  @Post('sessions/:id/stems')
  @Changes('session')
  @ApiOperation({
    summary: 'A file for each track that is not muted, as it is in the mix before the chain on the whole: all of one length.',
  })
  stems(@Param('id', ParseUUIDPipe) id: string, @Body() { revision }: StartStems): Promise<RenderView[]> {
    return this.renders.startStems(id, revision);
  }

  @Post('sessions/:id/pieces')
  @Changes('session')
  @ApiOperation({ summary: 'A file for each clip, with handles; or one in the place of each recording: for an editor.' })
  pieces(@Param('id', ParseUUIDPipe) id: string, @Body() body: StartPieces): Promise<RenderView[]> {
    return this.renders.startPieces(id, body);
  }

  @Get('sessions/:id/renders')
  @Hears('session')
  list(@Param('id', ParseUUIDPipe) id: string): Promise<RenderView[]> {
    return this.renders.list(id);
  }

  @Post('renders/:id/cancel')
  @Changes('render')
  cancel(@Param('id', ParseUUIDPipe) id: string): Promise<RenderView> {
    return this.renders.cancel(id);
  }

  @Get('renders/:id/file')
  @Hears('render')
  @ApiOperation({ summary: 'The finished file, as the target asks for; of a stem a WAV of 32-bit floats.' })
  async file(@Param('id', ParseUUIDPipe) id: string, @Res() response: Response): Promise<void> {
    const { path, fileName, mimeType } = await this.renders.file(id);
    response.type(mimeType);
    response.setHeader('etag', etagOf(path));
    response.download(path, fileName, { lastModified: false, dotfiles: 'allow' });
  }
}
