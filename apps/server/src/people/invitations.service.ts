import { randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import type { InvitationMade, InvitationView, Invite, OpenInvitation, Role, TakeInvitation } from '@euphonos/contracts';
import { DataSource, MoreThan } from 'typeorm';
import { SERVER_CONFIG, type ServerConfig } from '../config.js';
import { AppProblem, notFound } from '../problems/app-problem.js';
import type { Asker } from '../rights/asker.js';
import { hashPassword, requireGoodPassword } from './passwords.js';
import { PeopleService } from './people.service.js';
import { InvitationEntity, PersonEntity } from './person.entity.js';
import { hashOfSecret, newSecret } from './secrets.js';

const JOIN_HOURS = 72;
const RENEW_HOURS = 2;

const gone = (): AppProblem =>
  new AppProblem(404, 'invitation-gone', 'This link has been used, has run out or was taken back. Ask whoever sent it for another one.');

/** Links that let somebody in, each once. Whoever makes one hands it on; nothing is mailed. */
@Injectable()
export class InvitationsService {
  constructor(
    private readonly dataSource: DataSource,
    private readonly people: PeopleService,
    @Inject(SERVER_CONFIG) private readonly config: ServerConfig,
  ) {}

  invite({ role, productionId, note }: Invite, by: Asker): Promise<InvitationMade> {
    return this.#make({ kind: 'join', role, note, productionId: productionId ?? null, personId: null, madeBy: by.personId }, JOIN_HOURS);
  }

  /** A link for somebody who has lost their password. */
  async renew(personId: string, by: Asker): Promise<InvitationMade> {
    const { role, name } = await this.people.find(personId);
    await this.dataSource.manager.delete(InvitationEntity, { personId });
    return this.#make({ kind: 'renew', role, note: name, productionId: null, personId, madeBy: by.personId }, RENEW_HOURS);
  }

  /** The link for the first owner, made anew at every start until it was taken; null once there is somebody. */
  async first(): Promise<InvitationMade | null> {
    const { manager } = this.dataSource;
    if ((await manager.count(PersonEntity)) > 0) return null;
    await manager.delete(InvitationEntity, { kind: 'join' });
    return this.#make({ kind: 'join', role: 'owner', note: 'first owner', productionId: null, personId: null, madeBy: null }, JOIN_HOURS);
  }

  /** The same for whoever looks after the machine, when nobody is left who could send one. @throws {Error} when there is no such account */
  async renewByAddress(email: string): Promise<InvitationMade> {
    const [found] = (await this.dataSource.query(
      'SELECT id, role, name FROM person WHERE lower(email) = lower($1) AND disabled_at IS NULL',
      [email],
    )) as {
      id: string;
      role: Role;
      name: string;
    }[];
    if (!found) throw new Error(`EUPHONOS_RENEW is "${email}"; nobody has an account with that address.`);
    await this.dataSource.manager.delete(InvitationEntity, { personId: found.id });
    return this.#make(
      { kind: 'renew', role: found.role, note: found.name, productionId: null, personId: found.id, madeBy: null },
      RENEW_HOURS,
    );
  }

  async #make(what: Omit<InvitationEntity, 'id' | 'secretHash' | 'expiresAt'>, hours: number): Promise<InvitationMade> {
    const secret = newSecret();
    const expiresAt = new Date(Date.now() + hours * 3_600_000);
    await this.dataSource.manager.insert(InvitationEntity, { ...what, id: randomUUID(), secretHash: hashOfSecret(secret), expiresAt });
    // Behind the hash sign: what stands there is sent to no server and stands in no log.
    return { link: `${this.config.publicUrl}/invitation#${secret}`, expiresAt: expiresAt.toISOString() };
  }

  async list(): Promise<OpenInvitation[]> {
    const rows = (await this.dataSource.query(
      `SELECT invitation.id, kind, invitation.role, note, person.name AS by, expires_at FROM invitation
       LEFT JOIN person ON person.id = made_by WHERE expires_at > now() ORDER BY expires_at`,
    )) as { id: string; kind: OpenInvitation['kind']; role: Role; note: string; by: string | null; expires_at: Date }[];
    return rows.map(({ by, expires_at, ...row }) => ({ ...row, madeBy: by, expiresAt: expires_at.toISOString() }));
  }

  async takeBack(id: string): Promise<void> {
    const { affected } = await this.dataSource.manager.delete(InvitationEntity, { id });
    if (affected !== 1) throw notFound('invitation');
  }

  async #find(secret: string): Promise<InvitationEntity> {
    const found = await this.dataSource.manager.findOneBy(InvitationEntity, {
      secretHash: hashOfSecret(secret),
      expiresAt: MoreThan(new Date()),
    });
    if (!found) throw gone();
    return found;
  }

  async lookUp(secret: string): Promise<InvitationView> {
    const { kind, role, productionId, personId, expiresAt } = await this.#find(secret);
    const [production] = productionId
      ? ((await this.dataSource.query('SELECT name FROM production WHERE id = $1', [productionId])) as { name: string }[])
      : [];
    return {
      kind,
      role,
      productionName: production?.name ?? null,
      email: personId ? (await this.people.find(personId)).email : null,
      expiresAt: expiresAt.toISOString(),
    };
  }

  /**
   * Makes the account, or renews its password. @returns whose it is, and what was done
   * @throws {AppProblem} `invitation-gone`, `email-known`, `name-missing`, `password-…`
   */
  async take({
    secret,
    name,
    email,
    password,
  }: TakeInvitation): Promise<{ readonly person: PersonEntity; readonly kind: 'join' | 'renew' }> {
    const invitation = await this.#find(secret);
    if (invitation.personId) {
      await this.people.setPassword(invitation.personId, password);
      await this.#use(invitation);
      return { person: await this.people.find(invitation.personId), kind: 'renew' };
    }
    if (!name?.trim() || !email) throw new AppProblem(422, 'name-missing', 'An account has a name and an address to sign in with.');
    requireGoodPassword(password, [name, email]);
    const passwordHash = await hashPassword(password);
    const person = await this.dataSource.transaction(async (manager) => {
      // Two who follow one link at one moment: one of them finds it used.
      const { affected } = await manager.delete(InvitationEntity, { id: invitation.id });
      if (affected !== 1) throw gone();
      const known = (await manager.query('SELECT 1 FROM person WHERE lower(email) = lower($1)', [email])) as unknown[];
      if (known.length > 0)
        throw new AppProblem(
          409,
          'email-known',
          'There is an account with this address already: sign in with it, or take another address.',
        );
      const made = await manager.save(
        manager.create(PersonEntity, {
          id: randomUUID(),
          name: name.trim(),
          email: email.trim(),
          passwordHash,
          role: invitation.role,
          disabledAt: null,
        }),
      );
      if (invitation.productionId)
        await manager.query('INSERT INTO production_person (production_id, person_id, share) VALUES ($1, $2, $3)', [
          invitation.productionId,
          made.id,
          invitation.role === 'listener' ? 'listener' : 'engineer',
        ]);
      return made;
    });
    return { person, kind: 'join' };
  }

  async #use({ id }: InvitationEntity): Promise<void> {
    await this.dataSource.manager.delete(InvitationEntity, { id });
  }

  async tidy(): Promise<void> {
    await this.dataSource.query('DELETE FROM invitation WHERE expires_at < now()');
  }
}
