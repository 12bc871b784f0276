import { parseChain } from './chain-spec.js';
import { chainDifferences, chainKeepingTimes, portableChain, timedLists } from './portable.js';

const spots = [{ startSeconds: 1, endSeconds: 2, lowHz: 100, highHz: 900 }];
const here = parseChain({
  treatments: [
    { kind: 'high-pass', id: 'a', cutoffHz: 90 },
    { kind: 'noise-reduction', id: 'b' },
    { kind: 'spots', id: 'c', spots },
  ],
});

test('what names times is known from the treatments themselves', () => {
  expect(timedLists('spots')).toEqual(['spots']);
  expect(timedLists('tone')).toEqual([]);
  expect(timedLists('breaths').length).toBeGreaterThan(0);
});

test('a portable chain names no time of the recording that it was made for', () => {
  const { treatments } = portableChain(here);
  expect(treatments.map(({ kind }) => kind)).toEqual(['high-pass', 'noise-reduction']);
  expect(JSON.stringify(portableChain(parseChain({ treatments: [here.treatments[0]] })))).toBe(
    JSON.stringify({ treatments: [here.treatments[0]] }),
  );
});

test('a chain that is taken leaves the own times: spots behind the noise reduction stay behind it', () => {
  const taken = chainKeepingTimes(
    parseChain({
      treatments: [
        { kind: 'noise-reduction', id: 'x' },
        { kind: 'gate', id: 'c' },
      ],
    }),
    here,
  );
  expect(taken.treatments.map(({ kind, id }) => [kind, id])).toEqual([
    ['noise-reduction', 'x'],
    ['spots', "c'"],
    ['gate', 'c'],
  ]);
  expect(taken.treatments[1]!['spots']).toEqual(here.treatments[2]!['spots']);
});

test('breaths that were found stay those of the recording, settings come with the chain', () => {
  const found = [{ startSeconds: 3, endSeconds: 3.4, certaintyPercent: 90 }];
  const own = parseChain({ treatments: [{ kind: 'breaths', reductionDb: 6, breaths: found }] });
  const other = parseChain({ treatments: [{ kind: 'breaths', reductionDb: 12, breaths: [{ ...found[0], startSeconds: 1 }] }] });
  expect(chainKeepingTimes(other, own).treatments[0]).toMatchObject({ reductionDb: 12, breaths: own.treatments[0]!['breaths'] });
  expect(portableChain(other).treatments[0]!['breaths']).toEqual([]);
});

test('in what two chains differ is told by treatment and setting, times aside', () => {
  const there = parseChain({ treatments: [{ kind: 'high-pass', cutoffHz: 120 }, { kind: 'gate' }] });
  const found = chainDifferences(here, there);
  expect(found.map(({ treatment, what, here, there }) => [treatment, what, here !== '', there !== ''])).toEqual([
    ['High-pass', 'Cutoff', true, true],
    ['Noise reduction', 'only here', true, false],
    ['Gate', 'only there', false, true],
  ]);
  expect(found[0]).toMatchObject({ here: '90 Hz', there: '120 Hz' });
  expect(chainDifferences(here, portableChain(here))).toEqual([]);
});
