import { chainOf } from './chain-of.js';

const treatments = [{ kind: 'high-pass', cutoffHz: 120 }];

test('a chain that was kept under a name is read as one without', () => {
  const named = { format: 'speech-chain', version: 1, name: 'Cellar', note: '', treatments };
  expect(chainOf(named)).toEqual(chainOf({ treatments }));
});

test('what is neither is refused with what is wrong', () => {
  expect(() => chainOf({ format: 'speech-chain', version: 9, name: 'x', treatments })).toThrow('version 1 is read');
  expect(() => chainOf({ name: 'x', treatments })).toThrow('not "name"');
  expect(() => chainOf('text')).toThrow('A chain is an object');
});
