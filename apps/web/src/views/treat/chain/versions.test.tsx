/** @jest-environment jsdom */
import type { SessionView } from '@euphonos/contracts';
import { createDocument } from '@euphonos/engine';
import { act, cleanup, fireEvent, render, screen } from '@testing-library/react';
import { Provider } from 'react-redux';
import { activeTrack, closed, edited, opened, shownTrack, undone } from '../../../store/session-slice.js';
import { store } from '../../../store/store.js';
import { useShownVersion, Versions, VersionShown } from './versions.js';

const facts = { lengthFrames: 480_000, sampleRateHz: 48_000, channels: 2 };
const document2 = createDocument({ id: 'r', name: 'n', ...facts });
const view = {
  id: 's',
  name: 'Session',
  document: document2,
  revision: 1,
  createdAt: '',
  updatedAt: '',
  lastDelivery: null,
  recordings: [],
  gathering: false,
  recording: {
    id: 'r',
    fileName: 'n.wav',
    sizeBytes: 1,
    facts: null,
    job: { id: 'j', kind: 'read', state: 'done', progress: 1, problem: null },
  },
} as unknown as SessionView;
const cutoff = (value: number) => edited({ type: 'set-parameter', trackId: 'track-1', treatmentId: 't1', name: 'cutoffHz', value });
const cutoffs = () => {
  const { session, listening } = store.getState();
  return {
    present: activeTrack(session)!.chain.treatments[0]!['cutoffHz'],
    heard: shownTrack(session, listening)!.chain.treatments[0]!['cutoffHz'],
  };
};

function Column() {
  const version = useShownVersion();
  return (
    <>
      <Versions />
      {version && <VersionShown version={version} />}
    </>
  );
}
beforeEach(() => {
  globalThis.fetch = jest.fn(async () => ({ ok: true, status: 200, json: async () => ({ revision: 2 }) })) as unknown as typeof fetch;
  globalThis.ResizeObserver = class {
    observe() {}
    unobserve() {}
    disconnect() {}
  } as unknown as typeof ResizeObserver;
  localStorage.clear();
  store.dispatch(opened(view));
});
afterEach(() => {
  cleanup();
  store.dispatch(closed());
});
const show = (what: React.ReactElement) => render(<Provider store={store}>{what}</Provider>);
const press = (name: string | RegExp): boolean => fireEvent.click(screen.getByRole('button', { name }));
const key = (letter: string): boolean => fireEvent.keyDown(document.body, { key: letter, code: `Key${letter.toUpperCase()}` });
/** Settings at 200 Hz kept as "High", then 60 Hz; the list is closed again, as keys rest while it is open. */
function keepHigh(): void {
  act(() => void store.dispatch(cutoff(200)));
  act(() => void store.dispatch(edited({ type: 'keep-version', id: 'v1', name: 'High', keptAt: '2026-11-26T04:00:00.000Z' })));
  act(() => void store.dispatch(cutoff(60)));
}

test('a version is kept under the name that was typed, or under a number', () => {
  show(<Column />);
  press('versions');
  fireEvent.change(screen.getByLabelText('Name of the version'), { target: { value: ' Soft ' } });
  press('Keep');
  press('Keep');
  expect(store.getState().session!.history!.present.versions.map(({ name }) => name)).toEqual(['Soft', 'Version 2']);
  press('Drop Soft');
  expect(store.getState().session!.history!.present.versions.map(({ name }) => name)).toEqual(['Version 2']);
});

test('V goes to the version and back; Restore brings its settings back', () => {
  show(<Column />);
  keepHigh();
  key('v');
  expect(screen.getByRole('status').textContent).toContain('You hear and see High.');
  expect(cutoffs()).toEqual({ present: 60, heard: 200 });
  key('v');
  expect(cutoffs()).toEqual({ present: 60, heard: 60 });
  key('v');
  press('Restore');
  expect(cutoffs()).toEqual({ present: 200, heard: 200 });
  expect(screen.queryByRole('status')).toBeNull();
});

test('whatever is done or undone is done to the present settings, which are heard again; so it is when the chain is left', () => {
  const { unmount } = show(<Column />);
  keepHigh();
  for (const act2 of [cutoff(70), undone()]) {
    key('v');
    expect(cutoffs().heard).toBe(200);
    act(() => void store.dispatch(act2));
    expect(store.getState().listening.shownVersion).toBeNull();
  }
  key('v');
  unmount();
  expect(store.getState().listening.shownVersion).toBeNull();
});
