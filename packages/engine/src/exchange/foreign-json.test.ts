import fc from 'fast-check';
import { jsonDepth, readForeignJson } from './foreign-json.js';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const LIMITS = { mostBytes: 1 << 20 };
const depthOf = (value: unknown): number =>
  typeof value === 'object' && value !== null ? 1 + Math.max(0, ...Object.values(value).map(depthOf)) : 0;

test('whatever JSON.stringify writes is read as JSON.parse reads it, and its depth is that of the value', () =>
  fc.assert(
    fc.property(fc.jsonValue(), (value) => {
      const text = bytes(JSON.stringify(value));
      expect(readForeignJson(text, LIMITS)).toEqual(JSON.parse(JSON.stringify(value)));
      expect(jsonDepth(text)).toBe(depthOf(value));
    }),
  ));

test('brackets and quotes in strings count for nothing', () => {
  expect(jsonDepth(bytes(String.raw`{"a": "[[[\"[[\\", "b": ["]"]}`))).toBe(2);
});

test('what is too large, too deep or no JSON is refused before it is built', () => {
  expect(() => readForeignJson(bytes(`"${'x'.repeat(40)}"`), { mostBytes: 41 })).toThrow(expect.objectContaining({ code: 'json-large' }));
  // A million brackets: recursion over them would overflow the stack.
  expect(() => readForeignJson(bytes('['.repeat(1e6)), LIMITS)).toThrow(expect.objectContaining({ code: 'json-deep' }));
  expect(() => readForeignJson(bytes(`${'[{"a":'.repeat(51)}1${'}]'.repeat(51)}`), LIMITS)).toThrow('102 deep');
  expect(readForeignJson(bytes(`${'['.repeat(100)}${']'.repeat(100)}`), LIMITS)).toHaveLength(1);
  expect(() => readForeignJson(bytes('{"a": 1,}'), LIMITS)).toThrow(expect.objectContaining({ code: 'json-broken' }));
  expect(() => readForeignJson(new Uint8Array([0x22, 0xff, 0x22]), LIMITS)).toThrow(expect.objectContaining({ code: 'json-broken' }));
});
