import { randomUUID } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import type { ProfileView } from '@euphonos/contracts';
import { parseProfileFile } from '@euphonos/dsp';
import { DataSource } from 'typeorm';
import { AppProblem, notFound } from '../problems/app-problem.js';
import { askerId } from '../rights/asker.js';
import { ProfileEntity } from './profile.entity.js';

/** Sessions whose document has a track that uses a kept profile: [profile, session]. Before the third schema it was its clip that did. */
const USES = `
  SELECT DISTINCT user_of->'noise'->>'profileId' AS profile_id, session.id, session.name
  FROM session, jsonb_array_elements(document->'tracks') AS track, jsonb_array_elements(jsonb_build_array(track) || (track->'clips')) AS user_of
  WHERE user_of->'noise'->>'kind' = 'kept'`;

interface Use {
  readonly profile_id: string;
  readonly id: string;
  readonly name: string;
}

/** Noise profiles that were kept, of all sessions. */
@Injectable()
export class ProfilesService {
  constructor(private readonly dataSource: DataSource) {}

  /** The latest first. */
  async list(): Promise<ProfileView[]> {
    const [profiles, uses] = await Promise.all([
      this.dataSource.manager.find(ProfileEntity, { order: { createdAt: 'DESC' } }),
      this.#uses(),
    ]);
    return profiles.map((profile) => view(profile, uses));
  }

  async find(id: string): Promise<ProfileEntity> {
    const profile = await this.dataSource.manager.findOneBy(ProfileEntity, { id });
    if (!profile) throw notFound('noise profile');
    return profile;
  }

  /** @throws {DspError} `profile-file` when it cannot be read */
  async keep(given: unknown, sessionId: string | null): Promise<ProfileView> {
    const file = parseProfileFile(given);
    const { manager } = this.dataSource;
    const profile = manager.create(ProfileEntity, { id: randomUUID(), name: file.name, sessionId, file, madeBy: askerId() });
    return view(await manager.save(profile), []);
  }

  async rename(id: string, name: string): Promise<ProfileView> {
    await this.find(id);
    await this.dataSource.manager.update(ProfileEntity, { id }, { name });
    return view(await this.find(id), await this.#uses());
  }

  /** @throws {AppProblem} `profile-used` while a session reduces its noise by it */
  async remove(id: string): Promise<void> {
    const { name } = await this.find(id);
    const users = (await this.#uses()).filter(({ profile_id }) => profile_id === id);
    if (users.length > 0) {
      const names = users.map((user) => `"${user.name}"`).join(', ');
      throw new AppProblem(
        409,
        'profile-used',
        `The noise profile "${name}" is used by ${names}; nothing was deleted. Give these another profile first.`,
      );
    }
    await this.dataSource.manager.delete(ProfileEntity, { id });
  }

  #uses(): Promise<Use[]> {
    return this.dataSource.manager.query(USES) as Promise<Use[]>;
  }
}

const view = ({ id, name, sessionId, file, createdAt }: ProfileEntity, uses: readonly Use[]): ProfileView => ({
  id,
  name,
  takenFrom: file.takenFrom,
  sampleRateHz: file.sampleRateHz,
  channels: file.channels.length,
  sessionId,
  usedBy: uses.filter(({ profile_id }) => profile_id === id).length,
  createdAt: createdAt.toISOString(),
});
