/** @jest-environment jsdom */
import { act, render, screen } from '@testing-library/react';
import { useSettled } from './use-settled.js';

class SilentSource {
  addEventListener(): void {}
}

const asked: string[] = [];
let broken = true;
const ask = async (of: string): Promise<number> => {
  asked.push(of);
  if (broken) throw new Error('no line');
  return of.length;
};

function Shown({ of }: { readonly of: string }) {
  const settled = useSettled(of, 100, ask);
  return <p>{settled ? (settled.trouble ?? `${settled.of} ${settled.found}`) : 'coming'}</p>;
}
const shown = (): string | null => screen.getByRole('paragraph').textContent;
/** In small steps: what is set in one is shown, and waited for, in the next. */
async function pass(ms: number): Promise<void> {
  for (let done = 0; done < ms; done += 50) await act(async () => void (await jest.advanceTimersByTimeAsync(50)));
}

beforeEach(() => {
  jest.useFakeTimers();
  (globalThis as { EventSource?: unknown }).EventSource = SilentSource;
});
afterEach(() => jest.useRealTimers());

test('what could not be measured is asked for again, less and less often, until it is there; then no more', async () => {
  render(<Shown of="mix" />);
  expect(shown()).toBe('coming');
  await pass(150);
  expect([shown(), asked.length]).toEqual(['no line', 1]);
  await pass(2150);
  expect(asked.length).toBe(2);
  await pass(2150);
  expect(asked.length).toBe(2);
  broken = false;
  await pass(2000);
  expect([shown(), asked.length]).toEqual(['mix 3', 3]);
  await pass(40_000);
  expect(asked.length).toBe(3);
});
