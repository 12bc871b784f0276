import { parseChain, type TreatmentSettings } from '@euphonos/dsp';
import { isTaken } from './is-taken.js';

const of = (...treatments: object[]) => parseChain({ treatments });
const one = (treatment: object): TreatmentSettings => of(treatment).treatments[0]!;
const passage = { kind: 'passages', spans: [{ startFrame: 0, endFrame: 48_000 }] } as const;

test.each<[string, object[], object, boolean]>([
  ['set like that', [{ kind: 'high-pass', cutoffHz: 94 }], { kind: 'high-pass', cutoffHz: 94 }, true],
  ['set otherwise', [{ kind: 'high-pass' }], { kind: 'high-pass', cutoffHz: 94 }, false],
  ['bypassed', [{ kind: 'clicks', bypassed: true }], { kind: 'clicks' }, false],
  ['not there', [{ kind: 'gate' }], { kind: 'clicks' }, false],
  ['the same harmonics', [{ kind: 'hum-lines', harmonicsOn: [1, 3] }], { kind: 'hum-lines', harmonicsOn: [1, 3] }, true],
  ['fewer harmonics', [{ kind: 'hum-lines', harmonicsOn: [1] }], { kind: 'hum-lines', harmonicsOn: [1, 3] }, false],
  [
    'among other bands',
    [{ kind: 'tone', bands: [{ frequencyHz: 100 }, { shape: 'notch', frequencyHz: 1200, q: 20 }] }],
    { kind: 'tone', bands: [{ shape: 'notch', frequencyHz: 1200, q: 20 }] },
    true,
  ],
])('%s', (_, treatments, suggestion, taken) => {
  expect(isTaken({ chain: of(...treatments), noise: null }, one(suggestion))).toBe(taken);
});

test('noise reduction counts only with its passage', () => {
  const chain = of({ kind: 'noise-reduction' });
  expect(isTaken({ chain, noise: null }, one({ kind: 'noise-reduction' }))).toBe(false);
  expect(isTaken({ chain, noise: passage }, one({ kind: 'noise-reduction' }))).toBe(true);
});
