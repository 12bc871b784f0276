import { Body, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Patch, Put } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { RenameSession, SaveDocument, type SavedDocument, type SessionView } from '@euphonos/contracts';
import { SessionsService } from './sessions.service.js';

@ApiTags('sessions')
@Controller('api/sessions')
export class SessionsController {
  constructor(private readonly sessions: SessionsService) {}

  @Get()
  list(): Promise<SessionView[]> {
    return this.sessions.list();
  }

  @Get(':id')
  view(@Param('id', ParseUUIDPipe) id: string): Promise<SessionView> {
    return this.sessions.view(id);
  }

  @Put(':id/document')
  save(@Param('id', ParseUUIDPipe) id: string, @Body() { revision, document }: SaveDocument): Promise<SavedDocument> {
    return this.sessions.save(id, revision, document);
  }

  @Patch(':id')
  rename(@Param('id', ParseUUIDPipe) id: string, @Body() { name }: RenameSession): Promise<SessionView> {
    return this.sessions.rename(id, name);
  }

  @Delete(':id')
  @HttpCode(204)
  remove(@Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.sessions.remove(id);
  }
}
