import { Controller, Sse } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { interval, map, merge, type Observable } from 'rxjs';
import { EventsService } from './events.service.js';

const KEEP_ALIVE_MS = 15000;

@ApiTags('events')
@Controller('api/events')
export class EventsController {
  constructor(private readonly events: EventsService) {}

  /** Server-sent events: progress and ends of jobs, and a sign of life every 15 s. */
  @Sse()
  stream(): Observable<{ type?: string; data: object }> {
    return merge(
      this.events.jobs.pipe(map((data) => ({ type: 'job', data }))),
      interval(KEEP_ALIVE_MS).pipe(map(() => ({ type: 'alive', data: {} }))),
    );
  }
}
