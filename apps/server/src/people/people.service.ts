import { Injectable } from '@nestjs/common';
import type { ChangePerson, PersonName, PersonView, ProductionPerson, Share } from '@euphonos/contracts';
import { DataSource, IsNull } from 'typeorm';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { hashPassword, requireGoodPassword } from './passwords.js';
import { LockOutService } from './lock-out.service.js';
import { PersonEntity } from './person.entity.js';
import { SignInService } from './sign-in.service.js';

/** Accounts, and what is shared with whom. */
@Injectable()
export class PeopleService {
  constructor(
    private readonly dataSource: DataSource,
    private readonly lockOut: LockOutService,
    private readonly signIns: SignInService,
  ) {}

  async list(): Promise<PersonView[]> {
    const people = await this.dataSource.manager.find(PersonEntity, { order: { name: 'ASC' } });
    const held = (await this.dataSource.query(
      `SELECT person.id, most_bytes::float8 AS most, coalesce(sum(size_bytes), 0)::float8 AS used FROM person
       LEFT JOIN session ON made_by = person.id LEFT JOIN session_recording ON session_id = session.id LEFT JOIN recording ON recording.id = recording_id
       GROUP BY person.id`,
    )) as { id: string; most: number | null; used: number }[];
    const stepped = new Set(
      ((await this.dataSource.query('SELECT id FROM person WHERE code_secret IS NOT NULL')) as { id: string }[]).map(({ id }) => id),
    );
    const seen = (await this.dataSource.query('SELECT person_id, max(seen_at) AS at FROM sign_in GROUP BY person_id')) as {
      person_id: string;
      at: Date;
    }[];
    return Promise.all(
      people.map(async ({ id, name, email, role, disabledAt, createdAt }) => ({
        id,
        name,
        email,
        role,
        disabled: disabledAt !== null,
        usedBytes: held.find((one) => one.id === id)?.used ?? 0,
        mostBytes: held.find((one) => one.id === id)?.most ?? null,
        secondStep: stepped.has(id),
        createdAt: createdAt.toISOString(),
        lastSeenAt: seen.find(({ person_id }) => person_id === id)?.at.toISOString() ?? null,
        lockedUntil: (await this.lockOut.lockedUntil(email))?.toISOString() ?? null,
      })),
    );
  }

  async names(): Promise<PersonName[]> {
    const people = await this.dataSource.manager.find(PersonEntity, { where: { disabledAt: IsNull() }, order: { name: 'ASC' } });
    return people.map(({ id, name, role }) => ({ id, name, role }));
  }

  async find(id: string): Promise<PersonEntity> {
    const person = await this.dataSource.manager.findOneBy(PersonEntity, { id });
    if (!person) throw notFound('person');
    return person;
  }

  /** @throws {AppProblem} `last-owner` where nobody would be left who looks after the others */
  async change(id: string, { role, disabled, mostBytes }: ChangePerson): Promise<void> {
    await this.find(id);
    await this.dataSource.transaction(async (manager) => {
      // Two owners who take the right from each other at one moment: one after the other.
      await manager.query('LOCK TABLE person IN SHARE ROW EXCLUSIVE MODE');
      if (role || disabled !== undefined)
        await manager.update(
          PersonEntity,
          { id },
          { ...(role ? { role } : {}), ...(disabled === undefined ? {} : { disabledAt: disabled ? new Date() : null }) },
        );
      if (mostBytes !== undefined) await manager.query('UPDATE person SET most_bytes = $2 WHERE id = $1', [id, mostBytes]);
      if (!(await manager.existsBy(PersonEntity, { role: 'owner', disabledAt: IsNull() })))
        throw new AppProblem(
          409,
          'last-owner',
          'Nobody would be left who looks after this installation. Make somebody else an owner first. Nothing was changed.',
        );
    });
    if (!disabled) return;
    await this.signIns.closeOthers(id);
    // Nobody comes in any more by what they sent.
    await this.dataSource.query('DELETE FROM invitation WHERE made_by = $1 OR person_id = $1', [id]);
  }

  /** @throws {AppProblem} `password-…` */
  async setPassword(id: string, password: string): Promise<void> {
    const { name, email } = await this.find(id);
    requireGoodPassword(password, [name, email]);
    await this.dataSource.manager.update(PersonEntity, { id }, { passwordHash: await hashPassword(password) });
    await this.lockOut.forgive(email);
  }

  async sharedWith(productionId: string): Promise<ProductionPerson[]> {
    return (await this.dataSource.query(
      `SELECT person.id, person.name, person.role, share FROM production_person JOIN person ON person.id = person_id
       WHERE production_id = $1 AND disabled_at IS NULL ORDER BY lower(person.name)`,
      [productionId],
    )) as ProductionPerson[];
  }

  /** @throws {AppProblem} `share-role` for more than their account is for */
  async share(productionId: string, personId: string, share: Share): Promise<void> {
    const { role, name } = await this.find(personId);
    if (role === 'listener' && share === 'engineer')
      throw new AppProblem(422, 'share-role', `${name} is a listener. An owner can make an engineer of them; then it can be shared so.`);
    await this.dataSource.query(
      `INSERT INTO production_person (production_id, person_id, share) VALUES ($1, $2, $3)
       ON CONFLICT (production_id, person_id) DO UPDATE SET share = $3`,
      [productionId, personId, share],
    );
  }

  async unshare(productionId: string, personId: string): Promise<void> {
    await this.dataSource.query('DELETE FROM production_person WHERE production_id = $1 AND person_id = $2', [productionId, personId]);
  }
}
