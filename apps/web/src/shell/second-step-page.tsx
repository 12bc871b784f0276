import { toast } from 'sonner';
import { setToken } from '../api/token.js';
import { getWho, signOut } from '../api/who.js';
import { useAppDispatch } from '../store/store.js';
import { whoKnown } from '../store/who-slice.js';
import { SecondStep } from '../views/people/second-step.js';

/** Where an installation asks for a second step that is not set up yet: that, or the way out. */
export function SecondStepPage() {
  const dispatch = useAppDispatch();
  const askAgain = async (): Promise<void> => {
    const who = await getWho();
    setToken(who.token, who.person?.id);
    dispatch(whoKnown(who));
  };
  const told = (error: Error): void => void toast.error(error.message);
  return (
    <main className="grid min-h-0 grow place-items-center overflow-auto">
      <div className="w-[560px] border-t-[3px] border-ink pt-5">
        <h1 className="m-0 text-[26px]">Euphonos</h1>
        <p className="mt-1 mb-0 text-soft">
          This installation asks you for a second step beside your password. Set it up once; then you are in.
        </p>
        <SecondStep onSet={() => void askAgain().catch(told)} />
        <p className="mt-7 border-t border-line pt-3">
          <button type="button" className="press" onClick={() => void signOut().then(askAgain).catch(told)}>
            Sign out
          </button>
        </p>
      </div>
    </main>
  );
}
