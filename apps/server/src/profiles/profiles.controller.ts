import { Body, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Patch, Post, Res } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { KeepProfile, RenameProfile, type ProfileView } from '@euphonos/contracts';
import type { Response } from 'express';
import { ProfilesService } from './profiles.service.js';
import { About, Changes, Engineers, Hears } from '../rights/right.js';

@ApiTags('profiles')
@Controller('api/profiles')
export class ProfilesController {
  constructor(private readonly profiles: ProfilesService) {}

  @Get()
  @Engineers()
  list(): Promise<ProfileView[]> {
    return this.profiles.list();
  }

  @Post()
  @Engineers()
  @Hears('session', 'body.sessionId')
  @About('profile', 'answer.id')
  @ApiOperation({ summary: 'Keeps a noise profile; its schema is in docs/noise-profile.md.' })
  keep(@Body() { file, sessionId }: KeepProfile): Promise<ProfileView> {
    return this.profiles.keep(file, sessionId ?? null);
  }

  @Get(':id/file')
  @Hears('profile')
  @ApiOperation({ summary: 'The profile with its values, as a JSON file.' })
  async file(@Param('id', ParseUUIDPipe) id: string, @Res() response: Response): Promise<void> {
    const { name, file } = await this.profiles.find(id);
    response
      .attachment(`${name}.noise.json`)
      .type('application/json')
      .send(JSON.stringify({ ...file, name }));
  }

  @Patch(':id')
  @Changes('profile')
  rename(@Param('id', ParseUUIDPipe) id: string, @Body() { name }: RenameProfile): Promise<ProfileView> {
    return this.profiles.rename(id, name);
  }

  @Delete(':id')
  @Changes('profile')
  @HttpCode(204)
  remove(@Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.profiles.remove(id);
  }
}
