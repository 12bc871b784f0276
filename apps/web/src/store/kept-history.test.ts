/** @jest-environment jsdom */
import { createDocument, record, startHistory, undo, type History } from '@euphonos/engine';
import { findHistory, keepHistory } from './kept-history.js';

const LENGTH = 480_000;
const of = { trackId: 'track-1' };
/** A history of so many steps: the loop a little longer each time. */
const story = (steps: number): History =>
  Array.from({ length: steps }, (_, i) => ({ type: 'set-loop', ...of, span: { startFrame: 0, endFrame: 1000 + i } }) as const).reduce(
    (history, edit) => record(history, edit),
    startHistory(createDocument({ id: 'r', name: 'n', lengthFrames: LENGTH, sampleRateHz: 48_000, channels: 1 })),
  );

/** Room for so many characters, and no more. */
function room(characters: number): void {
  jest.spyOn(Storage.prototype, 'setItem').mockImplementation(function (this: Storage, key: string, value: string) {
    if (value.length > characters) throw new DOMException('full', 'QuotaExceededError');
    kept.set(key, value);
  });
  jest.spyOn(Storage.prototype, 'getItem').mockImplementation((key: string) => kept.get(key) ?? null);
  jest.spyOn(Storage.prototype, 'removeItem').mockImplementation((key: string) => void kept.delete(key));
}
const kept = new Map<string, string>();
afterEach(() => {
  kept.clear();
  jest.restoreAllMocks();
});

test('every step outlives a reload, what was undone too', () => {
  room(1e7);
  const history = undo(story(1000));
  keepHistory('s', history);
  expect(findHistory('s', history.present)).toEqual(history);
});

test('where there is no room for all of them the later ones do; where there is none for any, the rest is safe all the same', () => {
  const history = story(1000);
  room(40_000);
  keepHistory('s', history);
  const found = findHistory('s', history.present)!;
  expect(found.present).toEqual(history.present);
  expect(found.past.length).toBeGreaterThan(100);
  expect(found.past.length).toBeLessThan(1000);
  expect(found.past[0]!.document).toEqual(history.past[1000 - found.past.length]!.document);
  room(10);
  keepHistory('s', history);
  expect(findHistory('s', history.present)).toBeNull();
});

test('a history of another document is not taken', () => {
  room(1e7);
  keepHistory('s', story(5));
  expect(findHistory('s', story(4).present)).toBeNull();
});
