import { Controller, Sse } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { concatMap, filter, from, interval, map, merge, share, takeWhile, takeUntil, type Observable } from 'rxjs';
import { SignInService } from '../people/sign-in.service.js';
import { asker, seesAll } from '../rights/asker.js';
import { RightsService } from '../rights/rights.service.js';
import { SignedInOnly } from '../rights/right.js';
import { EventsService } from './events.service.js';

const KEEP_ALIVE_MS = 15000;
/** What is shared or not any more is noticed after so long at the latest. */
const ASKED_AGAIN_MS = 20_000;

type Message = { type?: string; data: object };

@ApiTags('events')
@Controller('api/events')
export class EventsController {
  constructor(
    private readonly events: EventsService,
    private readonly rights: RightsService,
    private readonly signIns: SignInService,
  ) {}

  @Sse()
  @SignedInOnly()
  @ApiOperation({
    summary: 'Server-sent events of sessions that one may hear: progress and ends of jobs, talk; a sign of life every 15 s.',
  })
  stream(): Observable<Message> {
    const heard = merge(
      this.events.jobs.pipe(map((data) => ({ type: 'job', data }))),
      this.events.talk.pipe(map((data) => ({ type: 'talk', data }))),
    );
    const alive = interval(KEEP_ALIVE_MS).pipe(map(() => ({ type: 'alive', data: {} })));
    const person = asker();
    if (!person) return merge(heard, alive);
    // A page that is open is somebody who is there, until their sign-in ends. With another role it listens anew.
    const beats = alive.pipe(
      concatMap((beat) => from(this.signIns.stillThere(person).catch(() => true)).pipe(map((there) => ({ beat, there })))),
      share(),
    );
    const mayHear = seesAll() ? () => Promise.resolve(true) : this.#hearing(person);
    return merge(
      heard.pipe(
        concatMap((message) =>
          from(mayHear(message.data.sessionId).catch(() => false)).pipe(
            filter(Boolean),
            map(() => message),
          ),
        ),
        takeUntil(beats.pipe(filter(({ there }) => !there))),
      ),
      beats.pipe(
        takeWhile(({ there }) => there),
        map(({ beat }) => beat),
      ),
    );
  }

  #hearing(person: Parameters<RightsService['may']>[0]): (sessionId: string) => Promise<boolean> {
    const known = new Map<string, { readonly atMs: number; readonly may: Promise<boolean> }>();
    return (sessionId) => {
      const before = known.get(sessionId);
      if (before && Date.now() - before.atMs < ASKED_AGAIN_MS) return before.may;
      const may = this.rights.may(person, 'session', sessionId).then((found) => found !== null);
      if (known.size > 500) known.clear();
      known.set(sessionId, { atMs: Date.now(), may });
      return may;
    };
  }
}
