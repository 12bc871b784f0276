/** @jest-environment jsdom */
import type { SessionView } from '@euphonos/contracts';
import { createDocument } from '@euphonos/engine';
import { act, cleanup, render } from '@testing-library/react';
import type { ReactNode } from 'react';
import { Provider } from 'react-redux';
import { edited } from '../store/session-slice.js';
import { store } from '../store/store.js';
import { SessionRoom } from './session-room.js';

jest.mock('react-router', () => ({
  Link: () => null,
  Navigate: () => null,
  Outlet: () => null,
  useMatch: () => null,
  useParams: () => ({ id: 's' }),
}));
jest.mock('../workbench/workbench-context.js', () => ({ WorkbenchProvider: ({ children }: { children: ReactNode }) => children }));
jest.mock('./listening-bar/listening-bar.js', () => ({ ListeningBar: () => null }));
jest.mock('./talk/use-talk.js', () => ({ useTalkKept: () => undefined }));
jest.mock('../api/events.js', () => ({ onJobEvent: () => () => undefined }));
let takeOver: () => Promise<void>;
jest.mock('./elsewhere.js', () => ({
  Elsewhere: ({ onTaken }: { onTaken: () => Promise<void> }) => {
    takeOver = onTaken;
    return null;
  },
}));
let answer: (view: SessionView) => void;
jest.mock('../api/client.js', () => ({
  ...jest.requireActual<object>('../api/client.js'),
  getSession: () => new Promise<SessionView>((resolve) => (answer = resolve)),
}));
jest.mock('../store/kept-history.js', () => ({
  ...jest.requireActual<object>('../store/kept-history.js'),
  fetchHistory: async () => null,
}));

const document = createDocument({ id: 'r', name: 'n', lengthFrames: 480_000, sampleRateHz: 48000, channels: 1 });
const view = (revision: number, cutoffHz: number): SessionView => {
  const [track] = document.tracks;
  const treatments = track!.chain.treatments.map((one) => (one.id === 't1' ? { ...one, cutoffHz } : one));
  return {
    id: 's',
    may: 'change',
    document: { ...document, tracks: [{ ...track!, chain: { ...track!.chain, treatments } }] },
    revision,
    recordings: [],
    gathering: false,
    recording: { id: 'r', facts: null, job: { state: 'done' } },
  } as unknown as SessionView;
};
const cutoffHz = (): unknown =>
  (store.getState().session!.history!.present.tracks[0]!.chain.treatments.find(({ id }) => id === 't1') as unknown as { cutoffHz: number })
    .cutoffHz;

beforeEach(async () => {
  localStorage.clear();
  render(
    <Provider store={store}>
      <SessionRoom />
    </Provider>,
  );
  await act(async () => answer(view(3, 80)));
  expect(cutoffHz()).toBe(80);
});
afterEach(cleanup);

test('working here instead shows what was saved last', async () => {
  const taken = takeOver();
  await act(async () => answer(view(4, 120)));
  await taken;
  expect([store.getState().session!.revision, cutoffHz()]).toEqual([4, 120]);
});

test('what is done while that is on its way is not replaced by it', async () => {
  const taken = takeOver();
  await act(async () =>
    store.dispatch(edited({ type: 'set-parameter', trackId: 'track-1', treatmentId: 't1', name: 'cutoffHz', value: 95 })),
  );
  await act(async () => answer(view(4, 120)));
  await taken;
  expect([store.getState().session!.revision, cutoffHz()]).toEqual([3, 95]);
});
