import { lazy, Suspense, type ReactNode } from 'react';
import { createBrowserRouter, Navigate, Outlet, useRouteError } from 'react-router';
import { Toaster } from 'sonner';
import { Gate } from './shell/gate.js';
import { Invitation } from './views/people/invitation.js';
import { TopBar } from './shell/top-bar.js';
import { Intake } from './views/intake/intake.js';
import { SessionRoom } from './views/session-room.js';

const treat = () => import('./views/treat/treat.js').then(({ Treat }) => ({ default: Treat }));
// Where it is the first thing to be seen it is fetched beside all else, not after it.
const treatFirst = /^\/sessions\/[^/]+\/treat/.test(location.pathname) ? treat() : null;
const Treat = lazy(() => treatFirst ?? treat());
const Survey = lazy(() => import('./views/survey/survey.js').then(({ Survey }) => ({ default: Survey })));
const Balance = lazy(() => import('./views/balance/balance.js').then(({ Balance }) => ({ default: Balance })));
const HandOver = lazy(() => import('./views/hand-over/hand-over.js').then(({ HandOver }) => ({ default: HandOver })));

const Batches = lazy(() => import('./views/batches/batches.js').then(({ Batches }) => ({ default: Batches })));
const Batch = lazy(() => import('./views/batches/batch.js').then(({ Batch }) => ({ default: Batch })));

const SoundCheck = lazy(() => import('./views/sound-check/sound-check.js').then(({ SoundCheck }) => ({ default: SoundCheck })));

const State = lazy(() => import('./views/state/state.js').then(({ State }) => ({ default: State })));

const People = lazy(() => import('./views/people/people.js').then(({ People }) => ({ default: People })));
const Account = lazy(() => import('./views/people/account.js').then(({ Account }) => ({ default: Account })));
const Talk = lazy(() => import('./views/talk/talk.js').then(({ Talk }) => ({ default: Talk })));

const later = (view: ReactNode) => <Suspense fallback={null}>{view}</Suspense>;

function Shell() {
  return (
    <div className="flex h-full flex-col">
      <Gate>
        <TopBar />
        <Outlet />
      </Gate>
      <Toaster
        position="bottom-center"
        toastOptions={{ classNames: { toast: '!rounded-sheet !border-ink !bg-sheet !text-ink !shadow-none !font-sans' } }}
      />
    </div>
  );
}

/** A view that broke: what was saved is safe on the server, and a new start of the page reads it again. */
function Broken() {
  const error = useRouteError();
  return (
    <main className="mx-auto max-w-[640px] p-8">
      <h1 className="text-[22px]">This page has stopped</h1>
      <p>What was saved is safe. Load the page again to go on; if it stops again at the same place, this is what it says:</p>
      <pre className="overflow-auto rounded-sheet border border-line bg-sheet p-3 text-[12px]">
        {error instanceof Error ? error.message : String(error)}
      </pre>
      <button type="button" className="press-strong" onClick={() => location.reload()}>
        Load again
      </button>
    </main>
  );
}

export const router = createBrowserRouter([
  { path: '/invitation', element: <Invitation />, errorElement: <Broken /> },
  {
    element: <Shell />,
    errorElement: <Broken />,
    children: [
      { path: '/', element: <Intake /> },
      { path: '/sound-check', element: later(<SoundCheck />) },
      { path: '/state', element: later(<State />) },
      { path: '/people', element: later(<People />) },
      { path: '/account', element: later(<Account />) },
      { path: '/batches', element: later(<Batches />) },
      { path: '/batches/:id', element: later(<Batch />) },
      {
        path: '/sessions/:id',
        element: <SessionRoom />,
        children: [
          { index: true, element: <Navigate to="treat" replace /> },
          { path: 'survey', element: later(<Survey />) },
          { path: 'treat', element: later(<Treat />) },
          { path: 'balance', element: later(<Balance />) },
          { path: 'hand-over', element: later(<HandOver />) },
          { path: 'talk', element: later(<Talk />) },
        ],
      },
      { path: '*', element: <Navigate to="/" replace /> },
    ],
  },
]);
