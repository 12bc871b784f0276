import { Injectable, type CallHandler, type ExecutionContext, type NestInterceptor } from '@nestjs/common';
import { Reflector } from '@nestjs/core';
import type { Request } from 'express';
import { tap, type Observable } from 'rxjs';
import { log } from '../log.js';
import { DoneService, type DoneSubject } from '../people/done.service.js';
import { asker } from './asker.js';
import { ABOUT, IS_ID, RIGHTS, UNNOTED, type Right, type Where } from './right.js';

interface About {
  readonly kind: string;
  readonly where: Where | `answer.${string}`;
}

/** `SessionsController.save` is `sessions.save`. */
const actionOf = (context: ExecutionContext): string =>
  `${context
    .getClass()
    .name.replace(/Controller$/, '')
    .replace(/^./, (letter) => letter.toLowerCase())}.${context.getHandler().name}`;

type Asked = Record<'params' | 'query' | 'body' | 'answer', unknown>;

/** What was changed: what it is said to be about, else what the right was asked to. */
function subjectOf(about: About | undefined, rights: readonly Right[], asked: Asked): DoneSubject | null {
  const named = [
    ...(about ? [about] : []),
    ...rights.flatMap((right) => (right.kind === 'subject' ? [{ kind: right.of, where: right.where }] : [])),
  ];
  for (const { kind, where } of named) {
    const [part, name] = where.split('.') as [keyof Asked, string];
    const id = (asked[part] as Record<string, unknown> | undefined)?.[name];
    const first = Array.isArray(id) ? (id as unknown[])[0] : id;
    if (typeof first === 'string' && IS_ID.test(first)) return { kind, id: first };
  }
  return null;
}

/** Writes who did what, once it is done. What it was done to is looked up before as well, since what is deleted has no name afterwards. */
@Injectable()
export class Noting implements NestInterceptor {
  constructor(
    private readonly reflector: Reflector,
    private readonly done: DoneService,
  ) {}

  async intercept(context: ExecutionContext, next: CallHandler): Promise<Observable<unknown>> {
    const { method, params, query, body } = context.switchToHttp().getRequest<Request>();
    const person = asker();
    const handler = context.getHandler();
    if (!person || method === 'GET' || this.reflector.get<boolean | undefined>(UNNOTED, handler)) return next.handle();
    const about = this.reflector.get<About | undefined>(ABOUT, handler);
    const rights = this.reflector.getAllAndOverride<readonly Right[] | undefined>(RIGHTS, [handler, context.getClass()]) ?? [];
    const before = await this.#named(subjectOf(about, rights, { params, query, body, answer: undefined }));
    let answer: unknown;
    const note = async (): Promise<void> => {
      const subject = before ?? (await this.#named(subjectOf(about, rights, { params, query, body, answer })));
      await this.done.note(person, actionOf(context), subject);
    };
    const complete = (): void => void note().catch((error: unknown) => log.error({ err: error }, 'who did what could not be written'));
    return next.handle().pipe(tap({ next: (value) => void (answer = value), complete }));
  }

  async #named(subject: DoneSubject | null): Promise<(DoneSubject & { name: string | null }) | null> {
    return subject && { ...subject, name: await this.done.nameOf(subject) };
  }
}
