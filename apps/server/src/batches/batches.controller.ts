import { Body, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Patch, Post } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { ChangeBatchItems, StartBatch, type BatchRow, type BatchView } from '@euphonos/contracts';
import { BatchesService } from './batches.service.js';
import { About, Changes, Engineers, Hears } from '../rights/right.js';

@ApiTags('batches')
@Controller('api/batches')
export class BatchesController {
  constructor(private readonly batches: BatchesService) {}

  @Get()
  @Engineers()
  list(): Promise<BatchRow[]> {
    return this.batches.list();
  }

  @Post()
  @Engineers()
  @About('batch', 'answer.id')
  @ApiOperation({ summary: 'A batch; recordings that are brought in with its id are cleaned by it.' })
  start(@Body() body: StartBatch): Promise<BatchView> {
    return this.batches.start(body);
  }

  @Get(':id')
  @Hears('batch')
  view(@Param('id', ParseUUIDPipe) id: string): Promise<BatchView> {
    return this.batches.view(id);
  }

  @Patch(':id')
  @Changes('batch')
  @ApiOperation({ summary: 'Items that were heard and are good, or are to be done again.' })
  change(@Param('id', ParseUUIDPipe) id: string, @Body() body: ChangeBatchItems): Promise<BatchView> {
    return this.batches.change(id, body);
  }

  @Delete(':id')
  @Changes('batch')
  @HttpCode(204)
  @ApiOperation({ summary: 'Its list goes; its sessions stay.' })
  remove(@Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.batches.remove(id);
  }
}
