/** @jest-environment jsdom */
import { act, cleanup, fireEvent, render, screen } from '@testing-library/react';
import { Elsewhere } from './elsewhere.js';

jest.mock('react-router', () => ({ useNavigate: () => jest.fn() }));

/** What the server says to each beat, in turn; the last again and again. */
let answers: boolean[];
const asked: { windowId: string; take: boolean }[] = [];
beforeEach(() => {
  jest.useFakeTimers();
  asked.length = 0;
  onTaken.mockClear();
  globalThis.ResizeObserver = class {
    observe() {}
    unobserve() {}
    disconnect() {}
  } as unknown as typeof ResizeObserver;
  Object.defineProperty(globalThis.crypto, 'randomUUID', { configurable: true, value: () => '11111111-1111-4111-8111-111111111111' });
  globalThis.fetch = jest.fn(async (_: string, { method, body }: RequestInit) => {
    if (method === 'DELETE') return { ok: true, status: 204 };
    asked.push(JSON.parse(body as string));
    const held = asked[asked.length - 1]!.take || (answers.length > 1 ? answers.shift()! : answers[0]!);
    return { ok: true, status: 201, json: async () => ({ held, since: '2026-11-26T12:04:00.000', revision: 3 }) };
  }) as unknown as typeof fetch;
});
afterEach(() => {
  cleanup();
  jest.useRealTimers();
});
let loaded: () => void;
const onTaken = jest.fn(() => new Promise<void>((resolve) => (loaded = resolve)));
const show = async (): Promise<void> => {
  render(<Elsewhere sessionId="s" onTaken={onTaken} />);
  await act(() => jest.advanceTimersByTimeAsync(10));
};

test('while the session is this window’s nothing is shown, and it says again that it is there', async () => {
  answers = [true];
  await show();
  await act(() => jest.advanceTimersByTimeAsync(9000));
  expect(asked).toHaveLength(3);
  expect(new Set(asked.map(({ windowId }) => windowId)).size).toBe(1);
  expect(screen.queryByRole('dialog')).toBeNull();
});

test('open elsewhere: told since when; working here instead takes it and loads what was saved', async () => {
  answers = [false];
  await show();
  expect(screen.getByRole('dialog').textContent).toContain('since 12:04');
  answers = [true];
  fireEvent.click(screen.getByRole('button', { name: 'Work here instead' }));
  await act(() => jest.advanceTimersByTimeAsync(10));
  expect(asked[asked.length - 1]!.take).toBe(true);
  expect(onTaken).toHaveBeenCalledTimes(1);
  // What would be done now, that would be replaced.
  await act(() => jest.advanceTimersByTimeAsync(9000));
  expect(screen.getByRole('dialog')).toBeTruthy();
  await act(async () => loaded());
  expect(screen.queryByRole('dialog')).toBeNull();
});

test('taken over by another window: told as that', async () => {
  answers = [true, false];
  await show();
  await act(() => jest.advanceTimersByTimeAsync(5000));
  expect(screen.getByRole('dialog', { name: 'Another window has taken this session over' })).toBeTruthy();
});

test('a server that does not answer gives nothing away: it can be asked for again', async () => {
  answers = [false];
  await show();
  const { fetch } = globalThis;
  globalThis.fetch = jest.fn(async () => {
    throw new TypeError('Failed to fetch');
  });
  const button = screen.getByRole<HTMLButtonElement>('button', { name: 'Work here instead' });
  fireEvent.click(button);
  expect(button.disabled).toBe(true);
  await act(() => jest.advanceTimersByTimeAsync(10));
  expect(onTaken).not.toHaveBeenCalled();
  globalThis.fetch = fetch;
  expect(button.disabled).toBe(false);
  fireEvent.click(button);
  await act(() => jest.advanceTimersByTimeAsync(10));
  expect(onTaken).toHaveBeenCalledTimes(1);
});
