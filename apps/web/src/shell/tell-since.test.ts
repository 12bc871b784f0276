import type { DoneView } from '@euphonos/contracts';
import { sinceWords } from './tell-since.js';

const at = (hour: number, action: string, times = 1): DoneView => {
  const when = new Date(2026, 10, 28, hour, 5).toISOString();
  return { id: String(hour), at: when, until: when, times, person: 'Tam', action, subject: null };
};

test('the first time there is nothing to tell', () => {
  expect(sinceWords([])).toBeNull();
  expect(sinceWords([at(9, 'sign-in.signedIn'), at(8, 'sign-in.joined')])).toBeNull();
});

test('the sign-in before this one is told, with what was tried and what was changed since', () => {
  const quiet = [at(12, 'sign-in.signedIn'), at(10, 'signIn.signOut'), at(9, 'sign-in.signedIn'), at(8, 'people.change')];
  expect(sinceWords(quiet)).toBe('Signed in before on 28 Nov, 09:05.');
  const touched = [at(12, 'sign-in.signedIn'), at(11, 'sign-in.refused', 3), at(10, 'people.change'), at(9, 'sign-in.signedIn')];
  expect(sinceWords(touched)).toBe(
    'Signed in before on 28 Nov, 09:05. 3 wrong passwords since. Your account was changed since: your name, at the top right, Account.',
  );
});
