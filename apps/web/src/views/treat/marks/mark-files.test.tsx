/** @jest-environment jsdom */
import type { SessionView } from '@euphonos/contracts';
import { createDocument } from '@euphonos/engine';
import { act, fireEvent, render, screen } from '@testing-library/react';
import { Provider } from 'react-redux';
import { toast } from 'sonner';
import { closed, opened } from '../../../store/session-slice.js';
import { store } from '../../../store/store.js';
import { MarkFiles } from './mark-files.js';

jest.mock('sonner', () => ({ toast: Object.assign(jest.fn(), { error: jest.fn() }) }));

const document1 = createDocument({ id: 'r', name: 'n', lengthFrames: 480_000, sampleRateHz: 48_000, channels: 1 });
beforeEach(() => {
  const recording = {
    id: 'r',
    fileName: 'a.wav',
    sizeBytes: 1,
    facts: null,
    job: { id: 'j', kind: 'read', state: 'done', progress: 1, problem: null },
  };
  store.dispatch(opened({ id: 's', name: 'Mill', document: document1, revision: 1, recordings: [], recording } as unknown as SessionView));
  Object.defineProperty(globalThis, 'crypto', { value: { randomUUID: () => `id${Math.random()}` }, configurable: true });
});
afterEach(() => void store.dispatch(closed()));
const history = () => store.getState().session!.history!;

async function read(name: string, text: string): Promise<void> {
  render(
    <Provider store={store}>
      <MarkFiles marks={history().present.marks} sampleRateHz={48_000} />
    </Provider>,
  );
  const file = Object.assign(new File([text], name), { text: async () => text });
  await act(async () => void fireEvent.change(screen.getByLabelText('Marks file'), { target: { files: [file] } }));
}

test('a table of marks is read in one step', async () => {
  await read('marks.csv', 'start,end,name\n1,2,Arrival\n0.5,,cough\n');
  expect(history().present.marks.map(({ name, startFrame, endFrame }) => [name, startFrame, endFrame])).toEqual([
    ['cough', 24_000, null],
    ['Arrival', 48_000, 96_000],
  ]);
  expect(history().past.map(({ label }) => label)).toEqual(['Read 2 marks']);
});

test('cues are known by what they begin with', async () => {
  await read('talk.txt', 'WEBVTT\n\n00:01.000 --> 00:02.000\nArrival\n');
  expect(history().present.marks).toMatchObject([{ name: 'Arrival', startFrame: 48_000, endFrame: 96_000 }]);
});

test('what cannot be read is told with its line, and nothing is added', async () => {
  await read('marks.csv', 'start,name\nsoon,x\n');
  expect(history().present.marks).toEqual([]);
  expect(toast.error).toHaveBeenCalledWith(expect.stringContaining('Line 2: "soon" is no time'));
});
