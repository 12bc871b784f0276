import { Body, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Patch, Post } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { ChangeBatchItems, StartBatch, type BatchRow, type BatchView } from '@euphonos/contracts';
import { BatchesService } from './batches.service.js';

@ApiTags('batches')
@Controller('api/batches')
export class BatchesController {
  constructor(private readonly batches: BatchesService) {}

  @Get()
  list(): Promise<BatchRow[]> {
    return this.batches.list();
  }

  @Post()
  @ApiOperation({ summary: 'A batch; recordings that are brought in with its id are cleaned by it.' })
  start(@Body() body: StartBatch): Promise<BatchView> {
    return this.batches.start(body);
  }

  @Get(':id')
  view(@Param('id', ParseUUIDPipe) id: string): Promise<BatchView> {
    return this.batches.view(id);
  }

  @Patch(':id')
  @ApiOperation({ summary: 'Items that were heard and are good, or are to be done again.' })
  change(@Param('id', ParseUUIDPipe) id: string, @Body() body: ChangeBatchItems): Promise<BatchView> {
    return this.batches.change(id, body);
  }

  @Delete(':id')
  @HttpCode(204)
  @ApiOperation({ summary: 'Its list goes; its sessions stay.' })
  remove(@Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.batches.remove(id);
  }
}
