import { Body, Controller, Delete, Get, HttpCode, Param, ParseBoolPipe, ParseUUIDPipe, Patch, Post, Put, Query } from '@nestjs/common';
import { ApiBody, ApiOperation, ApiTags } from '@nestjs/swagger';
import {
  ChangeSessions,
  HoldSession,
  ListSessions,
  RenameSession,
  SaveDocument,
  type HoldView,
  type SavedDocument,
  type SessionPage,
  type SessionView,
} from '@euphonos/contracts';
import { WholeBody } from '../problems/whole-body.js';
import { RecordingsService } from '../recordings/recordings.service.js';
import { SamplesService } from '../recordings/samples.service.js';
import { HoldsService } from './holds.service.js';
import { SessionListService } from './session-list.service.js';
import { SessionsService } from './sessions.service.js';
import { StepsService } from './steps.service.js';
import type { HistoryLog } from '@euphonos/engine';
import { Changes, Hears, SignedInOnly, Unnoted } from '../rights/right.js';

@ApiTags('sessions')
@Controller('api/sessions')
export class SessionsController {
  constructor(
    private readonly sessions: SessionsService,
    private readonly holds: HoldsService,
    private readonly recordings: RecordingsService,
    private readonly samples: SamplesService,
    private readonly steps: StepsService,
    private readonly rows: SessionListService,
  ) {}

  @Get()
  @SignedInOnly()
  @ApiOperation({ summary: 'Sessions in pages, without their documents: searched, filtered, sorted.' })
  page(@Query() asked: ListSessions): Promise<SessionPage> {
    return this.rows.page(asked);
  }

  @Patch()
  @Changes('session', 'body.ids')
  @Changes('production', 'body.productionId')
  @HttpCode(204)
  @ApiOperation({ summary: 'Moves, archives, deletes or brings back many at once.' })
  change(@Body() body: ChangeSessions): Promise<void> {
    return this.rows.change(body);
  }

  @Get(':id')
  @Hears('session')
  async view(@Param('id', ParseUUIDPipe) id: string): Promise<SessionView> {
    await this.samples.haveThem(id);
    return this.sessions.view(id);
  }

  @Put(':id/document')
  @Changes('session')
  @ApiBody({ type: SaveDocument })
  save(@Param('id', ParseUUIDPipe) id: string, @Body(new WholeBody(SaveDocument)) body: object): Promise<SavedDocument> {
    const { revision, document, steps } = body as SaveDocument;
    return this.sessions.save(id, revision, document, steps);
  }

  @Get(':id/steps')
  @Hears('session')
  @ApiOperation({ summary: 'What was done in the session since it began, as edits; null where that is not known.' })
  async stepsOf(@Param('id', ParseUUIDPipe) id: string): Promise<{ log: HistoryLog | null }> {
    return { log: await this.steps.find(id) };
  }

  @Post(':id/gathered')
  @Changes('session')
  @HttpCode(204)
  @ApiOperation({ summary: 'No more recordings are to come: the session is made of those that it has, once they have been read.' })
  gathered(@Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.recordings.gathered(id);
  }

  @Post(':id/hold')
  @Changes('session')
  @Unnoted()
  hold(@Param('id', ParseUUIDPipe) id: string, @Body() { windowId, take }: HoldSession): Promise<HoldView> {
    return this.holds.hold(id, windowId, take === true);
  }

  @Delete(':id/hold/:windowId')
  @Changes('session')
  @Unnoted()
  @HttpCode(204)
  letGo(@Param('id', ParseUUIDPipe) id: string, @Param('windowId', ParseUUIDPipe) windowId: string): Promise<void> {
    return this.holds.letGo(id, windowId);
  }

  @Patch(':id')
  @Changes('session')
  rename(@Param('id', ParseUUIDPipe) id: string, @Body() { name }: RenameSession): Promise<SessionView> {
    return this.sessions.rename(id, name);
  }

  @Delete(':id')
  @Changes('session')
  @HttpCode(204)
  @ApiOperation({ summary: 'Deleted sessions can be brought back for 30 days; with `final` it goes for good, with its recordings.' })
  remove(
    @Param('id', ParseUUIDPipe) id: string,
    @Query('final', new ParseBoolPipe({ optional: true })) final: boolean | undefined,
  ): Promise<void> {
    return final ? this.sessions.forget(id) : this.sessions.remove(id);
  }
}
