import { Body, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Patch, Post } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { AcceptSession, ChangeComment, MakeComment, SayHere, type HereView, type TalkView } from '@euphonos/contracts';
import { requireAsker } from '../rights/asker.js';
import { Hears, SignedInOnly, Unnoted } from '../rights/right.js';
import { PresenceService } from './presence.service.js';
import { TalkService } from './talk.service.js';

@ApiTags('talk')
@Controller('api')
export class TalkController {
  constructor(
    private readonly talk: TalkService,
    private readonly presence: PresenceService,
  ) {}

  @Get('sessions/:id/talk')
  @Hears('session')
  @ApiOperation({ summary: 'Comments on a session in the order of its time, and who accepted it.' })
  of(@Param('id', ParseUUIDPipe) id: string): Promise<TalkView> {
    return this.talk.of(id);
  }

  @Post('sessions/:id/comments')
  @Hears('session')
  @ApiOperation({ summary: 'A comment on a stretch, a moment or all of it; or an answer.' })
  async say(@Param('id', ParseUUIDPipe) id: string, @Body() body: MakeComment): Promise<TalkView> {
    await this.talk.say(id, body);
    return this.talk.of(id);
  }

  @Post('sessions/:id/acceptances')
  @Hears('session')
  @ApiOperation({ summary: 'It was heard, and is good; or is not yet.' })
  async accept(@Param('id', ParseUUIDPipe) id: string, @Body() body: AcceptSession): Promise<TalkView> {
    await this.talk.accept(id, body);
    return this.talk.of(id);
  }

  @Patch('comments/:id')
  @HttpCode(204)
  @Hears('comment')
  change(@Param('id', ParseUUIDPipe) id: string, @Body() body: ChangeComment): Promise<void> {
    return this.talk.change(id, body);
  }

  @Delete('comments/:id')
  @HttpCode(204)
  @Hears('comment')
  takeBack(@Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.talk.takeBack(id);
  }

  @Post('presence')
  @HttpCode(200)
  @SignedInOnly()
  @Unnoted()
  @ApiOperation({ summary: 'This window is there, with this session; answers who else is.' })
  here(@Body() body: SayHere): Promise<HereView[]> {
    return this.presence.say(requireAsker(), body);
  }
}
