import { BadRequestException, type PipeTransform } from '@nestjs/common';
import { validateSync } from 'class-validator';

/**
 * Holds a body to the rules of its class without copying what is in it: the usual pipe walks through every part of a
 * document, which takes seconds where it has ten thousand clips. What is deep in it is read by whoever knows it. The
 * parameter must be declared as `object`, or the usual pipe comes first.
 */
export class WholeBody<Body extends object> implements PipeTransform<unknown, Body> {
  constructor(private readonly kind: new () => Body) {}

  transform(value: unknown): Body {
    const body = Object.assign(new this.kind(), value);
    const problems = validateSync(body, { whitelist: true, forbidNonWhitelisted: true });
    if (problems.length > 0) throw new BadRequestException(problems.flatMap(({ constraints }) => Object.values(constraints ?? {})));
    return body;
  }
}
