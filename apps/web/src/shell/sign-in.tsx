import { useState, type FormEvent } from 'react';
import { getWho, signIn } from '../api/who.js';
import { tellSince } from './tell-since.js';
import { setToken } from '../api/token.js';
import type { ServerProblem } from '../api/problem.js';
import { Field } from '../components/field.js';
import { whoKnown } from '../store/who-slice.js';
import { useAppDispatch } from '../store/store.js';

/** Address and password. `email` is known where somebody signs in again. */
export function SignInForm({ email: known = '', onSignedIn }: { readonly email?: string; readonly onSignedIn?: () => void }) {
  const [email, setEmail] = useState(known);
  const [password, setPassword] = useState('');
  // Asked for once the password was right, where the account has a second step.
  const [code, setCode] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const dispatch = useAppDispatch();
  const send = async (event: FormEvent): Promise<void> => {
    event.preventDefault();
    setBusy(true);
    setTrouble(null);
    try {
      await signIn(email, password, code ?? undefined);
      const who = await getWho();
      setToken(who.token, who.person?.id);
      dispatch(whoKnown(who));
      onSignedIn?.();
      void tellSince();
    } catch (error) {
      const { code: kind, message } = error as ServerProblem;
      if (kind === 'second-step') return setCode('');
      setTrouble(message);
      if (kind === 'wrong-code') return setCode('');
      setPassword('');
      setCode(null);
    } finally {
      setBusy(false);
    }
  };
  return (
    <form onSubmit={(event) => void send(event)} className="flex flex-col gap-3">
      <Field
        label="Address"
        type="email"
        autoComplete="username"
        value={email}
        onChange={setEmail}
        readOnly={known !== ''}
        autoFocus={known === ''}
      />
      <Field
        label="Password"
        type="password"
        autoComplete="current-password"
        value={password}
        onChange={setPassword}
        autoFocus={known !== ''}
      />
      {code !== null && (
        <Field
          label="Six digits of your device"
          type="text"
          inputMode="numeric"
          autoComplete="one-time-code"
          value={code}
          onChange={setCode}
          autoFocus
        />
      )}
      {trouble && (
        <p role="alert" className="m-0 text-[13px] text-removed">
          {trouble}
        </p>
      )}
      <button type="submit" className="press-strong self-start" disabled={busy || email === '' || password === '' || code === ''}>
        Sign in
      </button>
    </form>
  );
}

/** Before anything else, where several people share an installation. */
export function SignInPage() {
  return (
    <main className="grid min-h-0 grow place-items-center overflow-auto">
      <div className="w-[340px] border-t-[3px] border-ink pt-5">
        <h1 className="m-0 text-[26px]">Euphonos</h1>
        <p className="mt-1 mb-6 text-soft">Recordings and sessions of this studio are for those who work on them.</p>
        <SignInForm />
        <p className="mt-6 border-t border-line pt-3 text-[12px] text-soft">
          No account, or a lost password? An owner of this installation sends a link.
        </p>
      </div>
    </main>
  );
}
