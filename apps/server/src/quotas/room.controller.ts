import { Controller, Get } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import type { RoomView } from '@euphonos/contracts';
import { SignedInOnly } from '../rights/right.js';
import { QuotasService } from './quotas.service.js';

@ApiTags('state')
@Controller('api/room')
export class RoomController {
  constructor(private readonly quotas: QuotasService) {}

  @Get()
  @SignedInOnly()
  @ApiOperation({ summary: 'How much room there is, and how much of their own whoever asks has taken.' })
  room(): Promise<RoomView> {
    return this.quotas.room();
  }
}
