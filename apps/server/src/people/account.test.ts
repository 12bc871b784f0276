import type { DoneView, PersonView } from '@euphonos/contracts';
import { Person, PASSWORD, sharedServer } from '../testing/shared-server.js';
import type { TestServer } from '../testing/test-server.js';

let server: TestServer;
let owner: Person;
beforeAll(async () => ({ server, owner } = await sharedServer()), 60_000);
afterAll(() => server.close());

test('whoever an account belongs to sees what happened to it: sign-ins, wrong passwords, what others changed', async () => {
  const juno = await owner.invites('Juno', 'listener');
  await new Person(server, 'Juno').json('POST', 'sign-in', { email: juno.email, password: 'not this one' });
  expect((await owner.json('PATCH', `people/${juno.id}`, { role: 'engineer' })).status).toBe(204);
  expect(await juno.signIn()).toBe(204);
  const { body } = await juno.json<DoneView[]>('GET', 'sign-ins/happened');
  expect(body.map(({ person, action }) => [person, action])).toEqual([
    ['Juno', 'sign-in.signedIn'],
    ['Orla', 'people.change'],
    ['Juno', 'sign-in.refused'],
    ['Juno', 'sign-in.joined'],
  ]);
  // Of nobody else's.
  const { body: own } = await owner.json<DoneView[]>('GET', 'sign-ins/happened');
  expect(own.some(({ person, subject }) => person === 'Juno' || subject === 'Juno')).toBe(false);
});

test('what gives or takes access asks for the password again, some minutes after it was given', async () => {
  const invite = () => owner.json('POST', 'invitations', { role: 'engineer', note: 'late' });
  expect((await invite()).status).toBe(201);
  await server.sql.query(`UPDATE sign_in SET proven_at = now() - interval '11 minutes'`);
  const mira = (await owner.json<PersonView[]>('GET', 'people')).body[0]!;
  for (const [method, path, body] of [
    ['POST', 'invitations', { role: 'owner', note: 'late' }],
    ['PATCH', `people/${mira.id}`, { role: 'owner' }],
    ['POST', `people/${mira.id}/renewal`, {}],
  ] as const)
    expect((await owner.json(method, path, body)).body).toMatchObject({ code: 'prove' });
  // What looks, and work, goes on.
  expect((await owner.json('GET', 'people')).status).toBe(200);
  expect((await owner.json('POST', 'prove', { password: 'not this one' })).body['code']).toBe('wrong-password');
  expect((await invite()).status).toBe(403);
  expect((await owner.json('POST', 'prove', { password: PASSWORD })).status).toBe(204);
  expect((await invite()).status).toBe(201);
});
