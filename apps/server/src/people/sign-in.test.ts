import type { DonePage, InvitationMade, InvitationView, PersonView, SignedIn } from '@euphonos/contracts';
import { Person, PASSWORD, sharedServer } from '../testing/shared-server.js';
import type { TestServer } from '../testing/test-server.js';

let server: TestServer;
let owner: Person;
beforeAll(async () => ({ server, owner } = await sharedServer()));
afterAll(() => server.close());

test('a link makes one account, once, and tells what it is for', async () => {
  const { body: made } = await owner.json<InvitationMade>('POST', 'invitations', { role: 'engineer', note: 'Ebba' });
  const secret = made.link.split('#')[1]!;
  const stranger = new Person(server, 'Ebba');
  const { body: view } = await stranger.json<InvitationView>('POST', 'invitations/look-up', { secret });
  expect(view).toMatchObject({ kind: 'join', role: 'engineer', productionName: null });
  await stranger.join(made);
  expect((await stranger.who()).person).toMatchObject({ name: 'Ebba', role: 'engineer' });
  const again = await new Person(server, 'Other').json('POST', 'invitations/take', {
    secret,
    name: 'Other',
    email: 'other@studio.example',
    password: PASSWORD,
  });
  expect([again.status, again.body['code']]).toEqual([404, 'invitation-gone']);
});

test('only hashes of what lets somebody in are kept', async () => {
  const { rows } = await server.sql.query('SELECT password_hash FROM person UNION ALL SELECT secret_hash FROM sign_in');
  const kept = rows.map(({ password_hash }) => password_hash as string);
  // PHC string format of RFC 9106: argon2id, version 19, 19 MiB, 2 passes.
  expect(kept.filter((hash) => /^\$argon2id\$v=19\$m=19456,t=2,p=1\$/.test(hash)).length).toBeGreaterThan(0);
  for (const hash of kept) expect(hash).toMatch(/^\$argon2id\$|^[0-9a-f]{64}$/);
  expect(kept.join()).not.toContain(owner.cookie.split('=')[1]);
});

test('the cookie is for this server alone and out of reach of scripts', async () => {
  const response = await server.fetch('sign-in', {
    method: 'POST',
    body: JSON.stringify({ email: owner.email, password: PASSWORD }),
    headers: { 'content-type': 'application/json' },
  });
  const cookie = response.headers.get('set-cookie')!;
  for (const part of ['HttpOnly', 'SameSite=Strict', 'Path=/', 'Max-Age=43200']) expect(cookie).toContain(part);
  expect(cookie).not.toContain('Domain');
});

test('passwords are held to length and to what is guessed first', async () => {
  const { body: made } = await owner.json<InvitationMade>('POST', 'invitations', { role: 'listener', note: 'Lio' });
  const secret = made.link.split('#')[1]!;
  const take = (password: string) =>
    new Person(server, 'Lio').json('POST', 'invitations/take', { secret, name: 'Lio', email: 'lio@studio.example', password });
  expect((await take('short')).body['code']).toBe('password-short');
  for (const guessed of ['password1234', 'qwertyuiop12', 'aaaaaaaaaaaaaa', 'lio@studio.example', '123456789012'])
    expect((await take(guessed)).body['code']).toBe('password-weak');
  expect((await take('x'.repeat(129))).status).toBe(400);
  // Nothing of it used the link up, and any characters are good.
  expect((await take('σκουριά under nine boats')).status).toBe(204);
});

test('wrong passwords lock, alike for an account and for none; an owner lets in again', async () => {
  const tam = await owner.invites('Tam', 'engineer');
  const results = async (person: Person) => {
    const codes: unknown[] = [];
    for (let i = 0; i < 6; i++)
      codes.push((await person.json('POST', 'sign-in', { email: person.email, password: 'not this one' })).body['code']);
    return codes;
  };
  const locked = await results(new Person(server, 'Tam'));
  expect(locked).toEqual([...Array<string>(5).fill('wrong-sign-in'), 'locked']);
  expect(await results(new Person(server, 'Nobody'))).toEqual(locked);
  // Not even the right one now …
  expect(await new Person(server, 'Tam').signIn()).toBe(429);
  const { body: people } = await owner.json<PersonView[]>('GET', 'people');
  expect(people.find(({ name }) => name === 'Tam')!.lockedUntil).not.toBeNull();
  // … until they have a new one; whoever was signed in with the old one is out.
  const { body: renewal } = await owner.json<InvitationMade>('POST', `people/${tam.id}/renewal`);
  const next = 'four brass bells in fog';
  const secret = renewal.link.split('#')[1]!;
  expect((await new Person(server, 'Tam').json('POST', 'invitations/take', { secret, password: next })).status).toBe(204);
  expect((await tam.json('GET', 'sessions')).status).toBe(401);
  expect(await tam.signIn(next)).toBe(204);
});

test('too many tries from one place are not looked at', async () => {
  // Those of all tests before came from here too: the measure is 30 in five minutes.
  const statuses: number[] = [];
  for (let i = 0; i < 31; i++)
    statuses.push((await new Person(server, `X${i}`).json('POST', 'sign-in', { email: `x${i}@studio.example`, password: 'x' })).status);
  expect(statuses.at(-1)).toBe(429);
  // Whoever is signed in goes on.
  expect((await owner.json('GET', 'sessions')).status).toBe(200);
  await server.end();
  await server.start();
});

test('devices are listed and ended; a new password ends the others', async () => {
  const elsewhere = new Person(server, owner.name);
  expect(await elsewhere.signIn()).toBe(204);
  const { body: devices } = await owner.json<SignedIn[]>('GET', 'sign-ins');
  expect(devices.filter(({ here }) => here)).toHaveLength(1);
  const wrong = await owner.json('POST', 'password', { present: 'wrong', next: 'a quiet slipway at noon' });
  expect([wrong.status, wrong.body['code']]).toEqual([403, 'wrong-password']);
  expect((await owner.json('POST', 'password', { present: PASSWORD, next: 'a quiet slipway at noon' })).status).toBe(204);
  expect((await elsewhere.json('GET', 'sessions')).status).toBe(401);
  expect((await owner.json('GET', 'sessions')).status).toBe(200);
  expect((await owner.json('POST', 'password', { present: 'a quiet slipway at noon', next: PASSWORD })).status).toBe(204);
});

test('a sign-in ends after twelve hours, and after half an hour without a page', async () => {
  const una = await owner.invites('Una', 'engineer');
  await server.sql.query(`UPDATE sign_in SET since = now() - interval '12 hours 1 minute' WHERE person_id = $1`, [una.id]);
  expect((await una.json('GET', 'sessions')).status).toBe(401);
  await una.signIn();
  await server.sql.query(`UPDATE sign_in SET seen_at = now() - interval '31 minutes' WHERE person_id = $1`, [una.id]);
  expect((await una.json('GET', 'sessions')).status).toBe(401);
});

test('somebody must be left who looks after it; whoever is let go is out at once', async () => {
  const { status, body } = await owner.json('PATCH', `people/${owner.id}`, { role: 'engineer' });
  expect([status, body['code']]).toEqual([409, 'last-owner']);
  const vic = await owner.invites('Vic', 'engineer');
  await owner.json('PATCH', `people/${vic.id}`, { role: 'owner' });
  const { body: sent } = await vic.json<InvitationMade>('POST', 'invitations', { role: 'owner', note: 'a friend' });
  expect((await owner.json('PATCH', `people/${vic.id}`, { disabled: true })).status).toBe(204);
  const friend = await new Person(server, 'Friend').json('POST', 'invitations/look-up', { secret: sent.link.split('#')[1]! });
  expect(friend.body['code']).toBe('invitation-gone');
  expect((await vic.json('GET', 'sessions')).status).toBe(401);
  expect(await new Person(server, 'Vic').signIn()).toBe(401);
});

test('signing out ends the cookie on the server as well', async () => {
  const wim = await owner.invites('Wim', 'engineer');
  const { cookie } = wim;
  expect((await wim.json('POST', 'sign-out')).status).toBe(204);
  wim.cookie = cookie;
  expect((await wim.json('GET', 'sessions')).status).toBe(401);
});

test('who did what is written down', async () => {
  const { body } = await owner.json<DonePage>('GET', 'done');
  const lines = body.rows.map(({ person, action, subject }) => [person, action, subject].join(' '));
  expect(lines).toEqual(
    expect.arrayContaining(['Orla people.change Vic', 'Wim sign-in.joined ', 'Tam sign-in.locked ', 'Orla signIn.changePassword ']),
  );
  // Newest first, in pages.
  expect(body.rows.map(({ id }) => Number(id))).toEqual(body.rows.map(({ id }) => Number(id)).sort((a, b) => b - a));
});

test('over https the cookie travels over that alone, and browsers are told to stay there', async () => {
  await server.end();
  Object.assign(server.settings, { EUPHONOS_PUBLIC: 'https://studio.example' });
  await server.start();
  const response = await server.fetch('sign-in', {
    method: 'POST',
    body: JSON.stringify({ email: owner.email, password: PASSWORD }),
    headers: { 'content-type': 'application/json' },
  });
  const cookie = response.headers.get('set-cookie')!;
  // RFC 6265bis, 4.1.3.2: this prefix is taken with Secure, Path=/ and without Domain alone.
  expect(cookie).toMatch(/^__Host-euphonos=/);
  for (const part of ['Secure', 'HttpOnly', 'SameSite=Strict', 'Path=/']) expect(cookie).toContain(part);
  expect(response.headers.get('strict-transport-security')).toMatch(/max-age=31536000/);
  owner.cookie = cookie.split(';')[0]!;
  expect((await owner.who()).person).toMatchObject({ name: 'Orla' });
});
