import { randomBytes, randomUUID } from 'node:crypto';
import type { InvitationMade, Role, Share, WhoView } from '@euphonos/contracts';
import { hashOfSecret } from '../people/secrets.js';
import { TestServer } from './test-server.js';

export const PASSWORD = 'grey heron above the weir';

/** Somebody at a browser of their own: keeps the cookie, sends the token. */
export class Person {
  cookie = '';
  token = '';
  id = '';

  constructor(
    readonly server: TestServer,
    readonly name: string,
  ) {}

  get email(): string {
    return `${this.name.toLowerCase()}@studio.example`;
  }

  async fetch(path: string, init: RequestInit = {}, token = this.token): Promise<Response> {
    const headers = { ...(init.headers as Record<string, string>), cookie: this.cookie, 'x-euphonos-token': token };
    const response = await this.server.fetch(path, { ...init, headers });
    const set = response.headers.get('set-cookie');
    if (set) this.cookie = set.split(';')[0]!;
    return response;
  }

  async json<Answer = Record<string, unknown>>(method: string, path: string, body?: object): Promise<{ status: number; body: Answer }> {
    const response = await this.fetch(path, {
      method,
      ...(body ? { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } } : {}),
    });
    const text = await response.text();
    return {
      status: response.status,
      body: (text && /json/.test(response.headers.get('content-type') ?? '') ? JSON.parse(text) : null) as Answer,
    };
  }

  async who(): Promise<WhoView> {
    const { body } = await this.json<WhoView>('GET', 'who');
    this.token = body.token ?? '';
    this.id = body.person?.id ?? '';
    return body;
  }

  async signIn(password = PASSWORD): Promise<number> {
    const { status } = await this.json('POST', 'sign-in', { email: this.email, password });
    if (status === 204) await this.who();
    return status;
  }

  /** Follows a link. */
  async join({ link }: InvitationMade): Promise<this> {
    const secret = link.split('#')[1]!;
    const { status, body } = await this.json('POST', 'invitations/take', {
      secret,
      name: this.name,
      email: this.email,
      password: PASSWORD,
    });
    if (status !== 204) throw new Error(JSON.stringify(body));
    await this.who();
    return this;
  }

  async invites(name: string, role: Role): Promise<Person> {
    const { status, body } = await this.json<InvitationMade>('POST', 'invitations', { role, note: name });
    if (status !== 201) throw new Error(JSON.stringify(body));
    return new Person(this.server, name).join(body);
  }

  async shares(productionId: string, person: Person, share: Share): Promise<number> {
    return (await this.json('PUT', `productions/${productionId}/people/${person.id}`, { share })).status;
  }
}

/** A server that several people share, with its first owner. */
export async function sharedServer(
  settings: Readonly<Record<string, string>> = {},
): Promise<{ readonly server: TestServer; readonly owner: Person }> {
  const server = await TestServer.create(undefined, { EUPHONOS_SHARED: '1', ...settings });
  // The first link is printed for whoever started it; here it is put where that one would be.
  const secret = randomBytes(32).toString('base64url');
  await server.sql.query(
    `INSERT INTO invitation (id, secret_hash, kind, role, note, expires_at) VALUES ($1, $2, 'join', 'owner', 'first', now() + interval '1 hour')`,
    [randomUUID(), hashOfSecret(secret)],
  );
  const owner = await new Person(server, 'Orla').join({ link: `#${secret}`, expiresAt: '' });
  return { server, owner };
}
