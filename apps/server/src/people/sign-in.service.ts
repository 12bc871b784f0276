import { randomUUID } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import type { SignedIn } from '@euphonos/contracts';
import { DataSource, Not } from 'typeorm';
import { AppProblem, notFound } from '../problems/app-problem.js';
import type { Asker } from '../rights/asker.js';
import { DoneService } from './done.service.js';
import { LockOutService } from './lock-out.service.js';
import { asIfLooked, isPassword } from './passwords.js';
import { PersonEntity, SignInEntity } from './person.entity.js';
import { SecondStepService } from './second-step.service.js';
import { hashOfSecret, newSecret } from './secrets.js';

/** ASVS 4.0.3, 3.3.2: asked for again after 12 h, and after 30 min in which no page was open. */
export const LONGEST_HOURS = 12;
const IDLE_MINUTES = 30;
/** A page that is open says so this often; more often nothing is written. */
const SEEN_SECONDS = 60;
/** So long the password counts as just given. */
const PROVEN_MINUTES = 10;

interface SignedInRow {
  readonly id: string;
  readonly token: string;
  readonly person_id: string;
  readonly name: string;
  readonly email: string;
  readonly role: Asker['role'];
  readonly stale: boolean;
  readonly proven: boolean;
  readonly has_second_step: boolean;
}

const wrongWords = (): AppProblem => new AppProblem(401, 'wrong-sign-in', 'The address or the password is not right.');

/** Who is signed in, and how they come to be. */
@Injectable()
export class SignInService {
  constructor(
    private readonly dataSource: DataSource,
    private readonly lockOut: LockOutService,
    private readonly done: DoneService,
    private readonly secondStep: SecondStepService,
  ) {}

  /**
   * @returns the secret for the cookie
   * @throws {AppProblem} `wrong-sign-in`, `second-step`, `wrong-code`, `locked`
   */
  async signIn(email: string, password: string, code: string | undefined, agent: string): Promise<string> {
    await this.lockOut.requireOpen(email);
    const person = await this.#byEmail(email);
    const right = person && !person.disabledAt ? await isPassword(person.passwordHash, password) : (await asIfLooked(password), false);
    if (!person || !right) return this.#refuse(email, person, wrongWords());
    try {
      await this.secondStep.require(person.id, code);
    } catch (error) {
      if ((error as AppProblem).code === 'wrong-code') return this.#refuse(email, person, error as AppProblem);
      throw error;
    }
    await this.lockOut.forgive(email);
    await this.done.note({ personId: person.id, name: person.name }, 'sign-in.signedIn');
    return this.open(person.id, agent);
  }

  /** Wrong passwords and codes are counted together. */
  async #refuse(email: string, person: PersonEntity | null, problem: AppProblem): Promise<never> {
    const locked = await this.lockOut.wrong(email);
    await this.done.note({ personId: person?.id ?? null, name: person?.name ?? null }, locked ? 'sign-in.locked' : 'sign-in.refused');
    throw problem;
  }

  /** Signs a person in on a device. */
  async open(personId: string, agent: string): Promise<string> {
    const secret = newSecret();
    const { manager } = this.dataSource;
    const now = new Date();
    await manager.insert(SignInEntity, {
      id: randomUUID(),
      secretHash: hashOfSecret(secret),
      token: newSecret(),
      personId,
      agent: agent.slice(0, 200),
      since: now,
      seenAt: now,
    });
    return secret;
  }

  /** Who holds this cookie; null for one that has ended. */
  async find(secret: string): Promise<Asker | null> {
    const [row] = (await this.dataSource.query(
      `SELECT sign_in.id, token, person.id AS person_id, name, email, role, seen_at < now() - make_interval(secs => $4) AS stale,
         proven_at > now() - make_interval(mins => $5) AS proven, code_secret IS NOT NULL AS has_second_step
       FROM sign_in JOIN person ON person.id = person_id
       WHERE secret_hash = $1 AND disabled_at IS NULL AND since > now() - make_interval(hours => $2) AND seen_at > now() - make_interval(mins => $3)`,
      [hashOfSecret(secret), LONGEST_HOURS, IDLE_MINUTES, SEEN_SECONDS, PROVEN_MINUTES],
    )) as SignedInRow[];
    if (!row) return null;
    if (row.stale) await this.dataSource.query('UPDATE sign_in SET seen_at = now() WHERE id = $1', [row.id]);
    return {
      personId: row.person_id,
      name: row.name,
      email: row.email,
      role: row.role,
      signInId: row.id,
      token: row.token,
      proven: row.proven,
      hasSecondStep: row.has_second_step,
    };
  }

  /** A page that is open counts as somebody who is there. @returns whether the sign-in still holds, for somebody of that role */
  async stillThere({ signInId, role }: Asker): Promise<boolean> {
    const rows = (await this.dataSource.query(
      `UPDATE sign_in SET seen_at = now() FROM person WHERE sign_in.id = $1 AND person.id = person_id AND disabled_at IS NULL
         AND role = $3 AND since > now() - make_interval(hours => $2) RETURNING 1`,
      [signInId, LONGEST_HOURS, role],
    )) as [unknown[], number];
    return rows[1] === 1;
  }

  async close(id: string): Promise<void> {
    await this.dataSource.manager.delete(SignInEntity, { id });
  }

  /** Ends all others of a person, or all of them. */
  async closeOthers(personId: string, butId?: string): Promise<void> {
    await this.dataSource.manager.delete(SignInEntity, { personId, ...(butId ? { id: Not(butId) } : {}) });
  }

  async list({ personId, signInId }: Asker): Promise<SignedIn[]> {
    const rows = await this.dataSource.manager.find(SignInEntity, { where: { personId }, order: { seenAt: 'DESC' } });
    return rows.map(({ id, agent, since, seenAt }) => ({
      id,
      agent,
      since: since.toISOString(),
      seenAt: seenAt.toISOString(),
      here: id === signInId,
    }));
  }

  /** Ends one of one's own. */
  async end({ personId }: Asker, id: string): Promise<void> {
    const { affected } = await this.dataSource.manager.delete(SignInEntity, { id, personId });
    if (affected !== 1) throw notFound('sign-in');
  }

  /** The password is asked for again before something grave. @throws {AppProblem} `wrong-sign-in`, `locked` */
  async requirePassword({ personId, email }: Asker, password: string): Promise<void> {
    await this.lockOut.requireOpen(email);
    const person = await this.dataSource.manager.findOneByOrFail(PersonEntity, { id: personId });
    if (await isPassword(person.passwordHash, password)) return this.lockOut.forgive(email);
    await this.lockOut.wrong(email);
    throw new AppProblem(403, 'wrong-password', 'That is not your present password. Nothing was changed.');
  }

  /** The password once more, here: what is grave may be done for some minutes. @throws {AppProblem} `wrong-password`, `locked` */
  async prove(person: Asker, password: string): Promise<void> {
    await this.requirePassword(person, password);
    await this.dataSource.query('UPDATE sign_in SET proven_at = now() WHERE id = $1', [person.signInId]);
  }

  async tidy(): Promise<void> {
    await this.dataSource.query(
      'DELETE FROM sign_in WHERE since < now() - make_interval(hours => $1) OR seen_at < now() - make_interval(mins => $2)',
      [LONGEST_HOURS, IDLE_MINUTES],
    );
  }

  #byEmail(email: string): Promise<PersonEntity | null> {
    return this.dataSource.manager
      .createQueryBuilder(PersonEntity, 'person')
      .where('lower(email) = lower(:email)', { email: email.trim() })
      .getOne();
  }
}
