import { Inject, Injectable, type CanActivate, type ExecutionContext } from '@nestjs/common';
import { Reflector } from '@nestjs/core';
import type { Role } from '@euphonos/contracts';
import type { Request } from 'express';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { sameSecret } from '../people/secrets.js';
import { asker, type Asker } from './asker.js';
import { GRAVE, OF_ACCOUNT, RIGHTS, type Right, type Where } from './right.js';
import { RightsService } from './rights.service.js';

export const TOKEN_HEADER = 'x-euphonos-token';
const RANK: Readonly<Record<Role, number>> = { listener: 0, engineer: 1, owner: 2 };

const MOST_AT_ONCE = 1000;

const noRight = (message: string): AppProblem => new AppProblem(403, 'no-right', message);

/** What a request names there: one, several, or nothing. */
function named(request: Request, where: Where): readonly string[] {
  const [part, name] = where.split('.') as ['params' | 'query' | 'body', string];
  const given = (request[part] as Record<string, unknown> | undefined)?.[name];
  const ids = [given ?? []].flat().map(String);
  if (ids.length > MOST_AT_ONCE)
    throw new AppProblem(422, 'too-many', `Up to ${MOST_AT_ONCE} at once; ${ids.length} were named. Nothing was done.`);
  return ids;
}

/** Whether somebody must set up a second step before anything else. */
export const lacksSecondStep = ({ secondStep }: ServerConfig, { role, hasSecondStep }: Asker): boolean =>
  !hasSecondStep && (secondStep === 'everybody' || (secondStep === 'owners' && role === 'owner'));

/** Every request is held to a right; what states none is not answered. Where there are no accounts, whoever reaches loopback is the owner. */
@Injectable()
export class RightsGuard implements CanActivate {
  constructor(
    private readonly reflector: Reflector,
    private readonly rights: RightsService,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  async canActivate(context: ExecutionContext): Promise<boolean> {
    const asked = this.reflector.getAllAndOverride<readonly Right[] | undefined>(RIGHTS, [context.getHandler(), context.getClass()]);
    if (!asked?.length) throw noRight('Nobody has a right to this.');
    if (!this.config.shared) return true;
    const ofAccount = this.reflector.get<boolean | undefined>(OF_ACCOUNT, context.getHandler()) ?? false;
    await this.requireRights(asked, context.switchToHttp().getRequest<Request>(), ofAccount);
    if (this.reflector.get<boolean | undefined>(GRAVE, context.getHandler()) && !asker()?.proven)
      throw new AppProblem(403, 'prove', 'This gives or takes access: enter your password once more. Nothing was changed yet.');
    return true;
  }

  /** Also for what is answered before any route. @throws {AppProblem} `sign-in`, `token`, `second-step-needed`, `no-right`, `not-found` */
  async requireRights(asked: readonly Right[], request: Request, ofAccount = false): Promise<void> {
    if (!this.config.shared) return;
    if (asked.every(({ kind }) => kind === 'anybody')) return;
    const person = asker();
    if (!person) throw new AppProblem(401, 'sign-in', 'Nobody is signed in, or not any more. What was saved is safe; sign in to go on.');
    this.#requireToken(request, person);
    if (!ofAccount && lacksSecondStep(this.config, person))
      throw new AppProblem(
        403,
        'second-step-needed',
        'This installation asks for a second step beside your password. Set it up in your account; all else is answered then.',
      );
    for (const right of asked) await this.#require(right, request, person);
  }

  /** A page of somebody else can send our cookie along, but does not know this. */
  #requireToken(request: Request, { token }: Asker): void {
    if (request.method === 'GET' || request.method === 'HEAD') return;
    const given = request.headers[TOKEN_HEADER];
    if (!sameSecret(typeof given === 'string' ? given : undefined, token))
      throw new AppProblem(403, 'token', 'This page is of an earlier sign-in; nothing was changed. Load it again.');
  }

  async #require(right: Right, request: Request, person: Asker): Promise<void> {
    if (right.kind === 'anybody') return;
    if (right.kind === 'role') {
      if (RANK[person.role] < RANK[right.least])
        throw noRight(
          right.least === 'owner'
            ? 'This is for owners of the installation.'
            : 'Listeners hear, comment and accept; this is for engineers.',
        );
      return;
    }
    for (const id of named(request, right.where)) {
      const may = await this.rights.may(person, right.of, id);
      // Whoever may not hear it is not told that it is there.
      if (!may) throw notFound(right.of === 'profile' ? 'noise profile' : right.of);
      if (right.may === 'change' && may === 'hear')
        throw noRight('You may hear this, but not change it. Whoever shared it with you can let you.');
    }
  }
}
