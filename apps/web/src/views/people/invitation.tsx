import type { InvitationView } from '@euphonos/contracts';
import { PASSWORD_LENGTHS } from '@euphonos/contracts';
import { useEffect, useState, type FormEvent } from 'react';
import { lookUpInvitation, takeInvitation } from '../../api/who.js';
import { Field } from '../../components/field.js';
import { Notice } from '../../components/notice.js';

const WORDS = {
  owner: 'You look after this installation: people, what is shared, its state.',
  engineer: 'You bring recordings in and clean them; others share productions with you.',
  listener: 'You hear what is shared with you, say what you think of it, and accept it.',
} as const;

/** Where a link that was sent leads: a new account, or another password. */
export function Invitation() {
  const [secret] = useState(() => location.hash.slice(1));
  const [found, setFound] = useState<InvitationView | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  useEffect(() => {
    // Nobody finds it in the history of this browser.
    history.replaceState(null, '', '/invitation');
    lookUpInvitation(secret).then(setFound, (error: Error) => setTrouble(error.message));
  }, [secret]);
  return (
    <main className="grid h-full place-items-center overflow-auto">
      <div className="w-[380px] border-t-[3px] border-ink py-5">
        <h1 className="m-0 text-[26px]">Euphonos</h1>
        {trouble && <Notice tone="trouble">{trouble}</Notice>}
        {found && <Take secret={secret} invitation={found} />}
      </div>
    </main>
  );
}

function Take({
  secret,
  invitation: { kind, role, productionName, email: known },
}: {
  readonly secret: string;
  readonly invitation: InvitationView;
}) {
  const [name, setName] = useState('');
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const [trouble, setTrouble] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const renews = kind === 'renew';
  const send = async (event: FormEvent): Promise<void> => {
    event.preventDefault();
    setBusy(true);
    setTrouble(null);
    try {
      await takeInvitation({ secret, password, ...(renews ? {} : { name: name.trim(), email: email.trim() }) });
      location.assign('/');
    } catch (error) {
      setTrouble((error as Error).message);
      setBusy(false);
    }
  };
  return (
    <form className="mt-1 flex flex-col gap-3" onSubmit={(event) => void send(event)}>
      <p className="m-0 mb-3 text-soft">
        {renews ? `A new password for ${known}. All devices are signed out.` : WORDS[role]}
        {productionName && (
          <>
            {' '}
            <span className="text-ink">{productionName}</span> is shared with you.
          </>
        )}
      </p>
      {!renews && (
        <>
          <Field label="Your name, as others see it" value={name} onChange={setName} maxLength={80} autoComplete="name" autoFocus />
          <Field label="Address to sign in with" type="email" value={email} onChange={setEmail} autoComplete="username" />
        </>
      )}
      <Field
        label="Password"
        type="password"
        value={password}
        onChange={setPassword}
        autoComplete="new-password"
        autoFocus={renews}
        hint={`At least ${PASSWORD_LENGTHS.least} characters; any are good. A few words that do not belong together.`}
      />
      {trouble && (
        <p role="alert" className="m-0 text-[13px] text-removed">
          {trouble}
        </p>
      )}
      <button
        type="submit"
        className="press-strong self-start"
        disabled={busy || password === '' || (!renews && (name.trim() === '' || email === ''))}
      >
        {renews ? 'Take this password' : 'Make the account'}
      </button>
    </form>
  );
}
