import { Body, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Patch, Post, Res } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { ChangeChain, KeepChain, type ChainView } from '@euphonos/contracts';
import type { Response } from 'express';
import { ChainsService } from './chains.service.js';
import { About, Changes, Engineers, Hears } from '../rights/right.js';

@ApiTags('chains')
@Controller('api/chains')
export class ChainsController {
  constructor(private readonly chains: ChainsService) {}

  @Get()
  @Engineers()
  list(): Promise<ChainView[]> {
    return this.chains.list();
  }

  @Post()
  @Engineers()
  @About('chain', 'answer.id')
  @ApiOperation({ summary: 'Keeps a chain under the name in its file.' })
  keep(@Body() { file }: KeepChain): Promise<ChainView> {
    return this.chains.keep(file);
  }

  @Get(':id/file')
  @Hears('chain')
  @ApiOperation({ summary: 'The chain as a JSON file; the command line takes it too.' })
  async file(@Param('id', ParseUUIDPipe) id: string, @Res() response: Response): Promise<void> {
    const { name, file } = await this.chains.find(id);
    response
      .attachment(`${name}.chain.json`)
      .type('application/json')
      .send(JSON.stringify(file, null, 2));
  }

  @Patch(':id')
  @Changes('chain')
  change(@Param('id', ParseUUIDPipe) id: string, @Body() body: ChangeChain): Promise<ChainView> {
    return this.chains.change(id, body);
  }

  @Delete(':id')
  @Changes('chain')
  @HttpCode(204)
  remove(@Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.chains.remove(id);
  }
}
