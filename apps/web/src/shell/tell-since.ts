import type { DoneView } from '@euphonos/contracts';
import { format } from 'date-fns';
import { toast } from 'sonner';
import { listHappened } from '../api/who.js';

const SIGNED_IN = 'sign-in.signedIn';
const WRONG: ReadonlySet<string> = new Set(['sign-in.refused', 'sign-in.locked']);
const TOUCHED: ReadonlySet<string> = new Set([
  'people.change',
  'people.renew',
  'sign-in.renewed',
  'signIn.changePassword',
  'signIn.confirmSecondStep',
  'signIn.removeSecondStep',
]);

/**
 * When an account was signed in to before this time, and whether its password or its rights were touched since: for whoever it belongs to.
 * @param rows what happened to it, the latest first; the first sign-in among them is this one
 */
export function sinceWords(rows: readonly DoneView[]): string | null {
  const ins = rows.flatMap(({ action }, i) => (action === SIGNED_IN ? [i] : []));
  const [now, before] = ins;
  if (now === undefined || before === undefined) return null;
  const since = rows.slice(now + 1, before);
  const wrong = since.filter(({ action }) => WRONG.has(action)).reduce((sum, { times }) => sum + times, 0);
  const touched = since.some(({ action }) => TOUCHED.has(action));
  const words = [
    `Signed in before on ${format(rows[before]!.until, 'd MMM, HH:mm')}.`,
    wrong > 0 ? `${wrong} wrong ${wrong === 1 ? 'password' : 'passwords'} since.` : '',
    touched ? 'Your account was changed since: your name, at the top right, Account.' : '',
  ];
  return words.filter(Boolean).join(' ');
}

export async function tellSince(): Promise<void> {
  const words = sinceWords(await listHappened().catch(() => []));
  if (words) toast(words, { duration: 12_000 });
}
