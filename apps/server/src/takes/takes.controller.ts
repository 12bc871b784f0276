import { Body, Controller, Delete, Get, HttpCode, Param, ParseIntPipe, ParseUUIDPipe, Patch, Post, Put, Query, Req } from '@nestjs/common';
import { ApiConsumes, ApiOperation, ApiTags } from '@nestjs/swagger';
import { ChangeTake, EndTake, MOST_TAKE_BYTES, StartTake, type TakeView } from '@euphonos/contracts';
import type { Request } from 'express';
import { AppProblem } from '../problems/app-problem.js';
import { TakesService } from './takes.service.js';
import { Changes, Engineers, Hears, Unnoted } from '../rights/right.js';

@ApiTags('takes')
@Controller('api/takes')
export class TakesController {
  constructor(private readonly takes: TakesService) {}

  @Get()
  @Engineers()
  @ApiOperation({ summary: 'Takes of a sitting; without one, those that were begun and never ended.' })
  list(@Query('sitting', new ParseUUIDPipe({ optional: true })) sittingId: string | undefined): Promise<TakeView[]> {
    return this.takes.list(sittingId);
  }

  @Post()
  @Engineers()
  @ApiOperation({ summary: 'Begins a take. The same id again is the same take.' })
  start(@Body() take: StartTake): Promise<TakeView> {
    return this.takes.start(take);
  }

  @Get(':id')
  @Hears('take')
  view(@Param('id', ParseUUIDPipe) id: string): Promise<TakeView> {
    return this.takes.view(id);
  }

  @Put(':id/sound')
  @Changes('take')
  @Unnoted()
  @ApiConsumes('application/octet-stream')
  @ApiOperation({
    summary:
      'Frames of the take from `from` on: 32-bit floats, little endian, channels interleaved. What is there already is not written twice.',
  })
  async sound(
    @Param('id', ParseUUIDPipe) id: string,
    @Query('from', ParseIntPipe) from: number,
    @Req() request: Request,
  ): Promise<{ frames: number }> {
    const parts: Buffer[] = [];
    let sizeBytes = 0;
    for await (const part of request as AsyncIterable<Buffer>) {
      sizeBytes += part.length;
      if (sizeBytes > MOST_TAKE_BYTES)
        throw new AppProblem(
          413,
          'take-bytes',
          `One request brings up to ${MOST_TAKE_BYTES} bytes of a take; nothing of it was kept. Send less at a time.`,
        );
      parts.push(part);
    }
    if (from < 0) throw new AppProblem(422, 'take-bytes', `A take begins at frame 0; ${from} was given.`);
    return this.takes.append(id, from, Buffer.concat(parts));
  }

  @Patch(':id')
  @Changes('take')
  change(@Param('id', ParseUUIDPipe) id: string, @Body() change: ChangeTake): Promise<TakeView> {
    return this.takes.change(id, change);
  }

  @Post(':id/end')
  @Changes('take')
  @HttpCode(200)
  @ApiOperation({ summary: 'All of it is there: it comes into the session of its sitting, is read and surveyed there.' })
  end(@Param('id', ParseUUIDPipe) id: string, @Body() end: EndTake): Promise<TakeView> {
    return this.takes.end(id, end);
  }

  @Delete(':id')
  @Changes('take')
  @HttpCode(204)
  drop(@Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.takes.drop(id);
  }
}
