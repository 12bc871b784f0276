import type { DoneView, InvitationMade, PersonView, SecondStepBegun } from '@euphonos/contracts';
import { authenticator } from 'otplib';
import { Person, PASSWORD, sharedServer } from '../testing/shared-server.js';
import type { TestServer } from '../testing/test-server.js';

let server: TestServer;
let owner: Person;
beforeAll(async () => ({ server, owner } = await sharedServer()));
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

test('an installation may ask owners for one: until it is set up they are answered of their account alone', async () => {
  const { server: strict, owner: first } = await sharedServer({ EUPHONOS_SECOND_STEP: 'owners' });
  try {
    expect((await first.who()).secondStepNeeded).toBe(true);
    for (const path of ['sessions', 'people', 'room', 'events'])
      expect([path, (await first.json('GET', path)).body['code']]).toEqual([path, 'second-step-needed']);
    const upload = await first.fetch('uploads', { method: 'POST', headers: { 'tus-resumable': '1.0.0', 'upload-length': '1' } });
    expect([upload.status, await upload.text()]).toEqual([403, expect.stringContaining('second-step-needed')]);
    expect((await first.json('GET', 'sign-ins')).status).toBe(200);
    const { body: begun } = await first.json<SecondStepBegun>('POST', 'second-step');
    expect((await first.json('PUT', 'second-step', { code: authenticator.generate(begun.secret) })).status).toBe(204);
    expect((await first.who()).secondStepNeeded).toBe(false);
    expect((await first.json('GET', 'sessions')).status).toBe(200);
    const nils = await first.invites('Nils', 'engineer');
    expect((await nils.json('GET', 'sessions')).status).toBe(200);
  } finally {
    await strict.close();
  }
});

test('where a second step is set up, the password alone lets nobody in; each code does once; an owner’s link takes it away', async () => {
  const noa = await owner.invites('Noa', 'engineer');
  const { body: begun } = await noa.json<SecondStepBegun>('POST', 'second-step');
  expect((await noa.json('PUT', 'second-step', { code: '000000' })).body['code']).toBe('wrong-code');
  // Begun, not set up: nothing has changed.
  expect(await noa.signIn()).toBe(204);
  const codeAt = (offsetMs: number): string => authenticator.clone({ epoch: Date.now() + offsetMs }).generate(begun.secret);
  expect((await noa.json('PUT', 'second-step', { code: codeAt(-30_000) })).status).toBe(204);
  const elsewhere = new Person(server, 'Noa');
  const signIn = async (code?: string) =>
    (await elsewhere.json('POST', 'sign-in', { email: noa.email, password: PASSWORD, ...(code ? { code } : {}) })).body?.['code'] ?? 'in';
  expect(await signIn()).toBe('second-step');
  // With a wrong password nobody is told that there is one.
  expect((await elsewhere.json('POST', 'sign-in', { email: noa.email, password: 'not this one' })).body['code']).toBe('wrong-sign-in');
  const now = codeAt(0);
  expect(await signIn(now)).toBe('in');
  expect(await signIn(now)).toBe('wrong-code');
  const { body: people } = await owner.json<PersonView[]>('GET', 'people');
  expect(people.filter(({ secondStep }) => secondStep).map(({ name }) => name)).toEqual(['Noa']);
  const { body: renewal } = await owner.json<InvitationMade>('POST', `people/${noa.id}/renewal`);
  await elsewhere.json('POST', 'invitations/take', { secret: renewal.link.split('#')[1], password: PASSWORD });
  expect(await signIn()).toBe('in');
});
