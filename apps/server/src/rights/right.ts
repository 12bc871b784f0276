import { SetMetadata } from '@nestjs/common';
import type { Role } from '@euphonos/contracts';

/** What a right can be to. */
export type SubjectKind = 'session' | 'production' | 'recording' | 'render' | 'take' | 'batch' | 'chain' | 'profile' | 'comment';

/** Where a request names what it touches: `params.id`, `query.session`, `body.ids` … */
export type Where = `${'params' | 'query' | 'body'}.${string}`;

/** What it takes to be answered. */
export type Right =
  /** Anybody who reaches the server. */
  | { readonly kind: 'anybody' }
  /** Anybody who is signed in, with at least this role; what they see of it, the answer itself holds to what is theirs. */
  | { readonly kind: 'role'; readonly least: Role }
  /** To hear or change what the request names; what it leaves out is not asked for. */
  | { readonly kind: 'subject'; readonly may: 'hear' | 'change'; readonly of: SubjectKind; readonly where: Where };

export const IS_ID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;

export const RIGHTS = Symbol('rights');

const rights =
  (...more: Right[]): MethodDecorator & ClassDecorator =>
  (target: object, key?: string | symbol, descriptor?: PropertyDescriptor) => {
    const on = (descriptor?.value as object | undefined) ?? target;
    const known = (Reflect.getMetadata(RIGHTS, on) as Right[] | undefined) ?? [];
    SetMetadata(RIGHTS, [...known, ...more])(target, key!, descriptor!);
  };

/** Everybody is answered, signed in or not. */
export const Anybody = (): MethodDecorator & ClassDecorator => rights({ kind: 'anybody' });
/** Whoever is signed in: the answer holds what is theirs. */
export const SignedInOnly = (): MethodDecorator & ClassDecorator => rights({ kind: 'role', least: 'listener' });
/** Engineers and owners. */
export const Engineers = (): MethodDecorator & ClassDecorator => rights({ kind: 'role', least: 'engineer' });
export const Owners = (): MethodDecorator & ClassDecorator => rights({ kind: 'role', least: 'owner' });
/** Whoever may hear what is named there. */
export const Hears = (of: SubjectKind, where: Where = 'params.id'): MethodDecorator => rights({ kind: 'subject', may: 'hear', of, where });
/** Whoever may change what is named there; several of these hold together. */
export const Changes = (of: SubjectKind, where: Where = 'params.id'): MethodDecorator =>
  rights({ kind: 'subject', may: 'change', of, where });

export const GRAVE = Symbol('grave');
/** Gives or takes access: the password is asked for again where that was long ago (ASVS 4.0.3, 3.7.1). */
export const Grave = (): MethodDecorator => SetMetadata(GRAVE, true);

export const OF_ACCOUNT = Symbol('of account');
/** One's own account: answered also to whoever must set up a second step first. */
export const OfAccount = (): MethodDecorator => SetMetadata(OF_ACCOUNT, true);

export const ABOUT = Symbol('about');
/** What it was done to, where no right says so: `answer.id` for what was made. */
export const About = (kind: string, where: Where | `answer.${string}`): MethodDecorator => SetMetadata(ABOUT, { kind, where });

export const UNNOTED = Symbol('unnoted');
/** Not written to who did what: too often, or nothing that anybody would ask for. */
export const Unnoted = (): MethodDecorator => SetMetadata(UNNOTED, true);
