import { useEffect, useState, type ReactNode } from 'react';
import { onSignedOut, setToken } from '../api/token.js';
import { getWho } from '../api/who.js';
import { Dialog } from '../components/dialog.js';
import { Notice } from '../components/notice.js';
import { signInEnded, whoKnown } from '../store/who-slice.js';
import { useApp, useAppDispatch } from '../store/store.js';
import { ProveDialog } from './prove-dialog.js';
import { SecondStepPage } from './second-step-page.js';
import { SignInForm, SignInPage } from './sign-in.js';

const AGAIN_MS = 2000;

/** Lets in whoever may: everybody where there are no accounts. Who is signed out in the middle of work signs in over it. */
export function Gate({ children }: { readonly children: ReactNode }) {
  const { who, ended } = useApp((state) => state.who);
  const [trouble, setTrouble] = useState<string | null>(null);
  const dispatch = useAppDispatch();
  useEffect(() => {
    let left = false;
    let timer: ReturnType<typeof setTimeout>;
    const ask = (): void => {
      getWho().then(
        (known) => {
          if (left) return;
          setToken(known.token, known.person?.id);
          setTrouble(null);
          dispatch(whoKnown(known));
        },
        (error: Error) => {
          if (left) return;
          setTrouble(error.message);
          timer = setTimeout(ask, AGAIN_MS);
        },
      );
    };
    ask();
    const stop = onSignedOut(() => dispatch(signInEnded()));
    return () => {
      left = true;
      clearTimeout(timer);
      stop();
    };
  }, [dispatch]);
  if (!who)
    return trouble ? (
      <div className="p-6">
        <Notice tone="trouble">{trouble}</Notice>
      </div>
    ) : null;
  if (who.shared && !who.person) return <SignInPage />;
  if (who.secondStepNeeded)
    return (
      <>
        <SecondStepPage />
        <ProveDialog />
      </>
    );
  return (
    <>
      {children}
      {who.shared && <ProveDialog />}
      <Dialog open={ended} title="Sign in again" onClose={() => undefined}>
        <p className="mt-0">
          You are not signed in any more: it was long ago, or was ended elsewhere. What is open here stays as it is, and what is not saved
          yet is saved then.
        </p>
        {who.person && <SignInForm email={who.person.email} />}
      </Dialog>
    </>
  );
}
