import { Injectable, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import { log } from '../log.js';
import { DoneService } from './done.service.js';
import { InvitationsService } from './invitations.service.js';
import { LockOutService } from './lock-out.service.js';
import { SignInService } from './sign-in.service.js';

const EVERY_MS = 3_600_000;

/** Takes away what has run out: sign-ins, links, locks, and old lines of who did what. */
@Injectable()
export class PeopleKeeper implements OnApplicationBootstrap, OnModuleDestroy {
  #timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly signIns: SignInService,
    private readonly invitations: InvitationsService,
    private readonly lockOut: LockOutService,
    private readonly done: DoneService,
  ) {}

  onApplicationBootstrap(): void {
    this.#timer = setInterval(() => void this.tidy(), EVERY_MS);
    void this.tidy();
  }

  onModuleDestroy(): void {
    clearInterval(this.#timer);
  }

  async tidy(): Promise<void> {
    for (const keeper of [this.signIns, this.invitations, this.lockOut, this.done])
      await keeper.tidy().catch((error: unknown) => log.warn({ err: error }, 'what has run out could not be taken away'));
  }
}
