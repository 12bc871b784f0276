import * as fc from 'fast-check';
import { treatments } from '../treatments/registry.js';
import { defaultTreatment, parametersOf, parseChain } from './chain-spec.js';

const parse = (...list: unknown[]) => parseChain({ treatments: list });

test('what is left out takes its default', () => {
  expect(parse({ kind: 'high-pass' }).treatments[0]).toEqual({ kind: 'high-pass', bypassed: false, cutoffHz: 80, slopeDbPerOctave: 24 });
});

test.each([
  ['not an object', null, 'chain-shape'],
  ['no list', { treatments: {} }, 'chain-shape'],
  ['something beside the list', { treatments: [], speed: 2 }, 'chain-shape'],
  ['unknown kind', { treatments: [{ kind: 'reverb' }] }, 'treatment-unknown'],
  ['kind from the prototype', { treatments: [{ kind: 'high-pass', toString: 1 }] }, 'parameter-unknown'],
  ['unknown parameter', { treatments: [{ kind: 'gate', treshold: 1 }] }, 'parameter-unknown'],
  ['text for a number', { treatments: [{ kind: 'gate', openDb: '-40' }] }, 'parameter-type'],
  ['NaN', { treatments: [{ kind: 'gate', openDb: NaN }] }, 'parameter-type'],
  ['out of range', { treatments: [{ kind: 'high-pass', cutoffHz: 501 }] }, 'parameter-range'],
  ['between two slopes', { treatments: [{ kind: 'high-pass', slopeDbPerOctave: 20 }] }, 'parameter-range'],
  ['half a harmonic', { treatments: [{ kind: 'hum-notch', harmonics: 2.5 }] }, 'parameter-range'],
  ['open below close', { treatments: [{ kind: 'gate', openDb: -60, closeDb: -40 }] }, 'parameter-conflict'],
  ['bypassed by a number', { treatments: [{ kind: 'gate', bypassed: 1 }] }, 'parameter-type'],
  ['33 treatments', { treatments: Array.from({ length: 33 }, () => ({ kind: 'gate' })) }, 'chain-shape'],
  [
    'two with one id',
    {
      treatments: [
        { kind: 'gate', id: 'a' },
        { kind: 'gate', id: 'a' },
      ],
    },
    'chain-shape',
  ],
])('%s is refused', (_, json, code) => {
  expect(() => parseChain(json)).toThrow(expect.objectContaining({ code }));
});

test('messages carry the limit and what was given', () => {
  expect(() => parse({ kind: 'high-pass', cutoffHz: 9000 })).toThrow('high-pass: cutoffHz goes from 20 to 500 Hz; 9000 was given.');
});

test('reading what was written changes nothing', () => {
  const anyKind = fc.constantFrom(...treatments.map(({ kind }) => kind));
  fc.assert(
    fc.property(fc.array(fc.tuple(anyKind, fc.boolean()), { maxLength: 8 }), (list) => {
      const chain = { treatments: list.map(([kind, bypassed], i) => ({ ...defaultTreatment(kind), bypassed, id: `t${i}` })) };
      expect(parseChain(JSON.parse(JSON.stringify(chain)))).toEqual(chain);
    }),
  );
});

test('every definition stands on its own feet', () => {
  for (const { kind, parameters, conflict } of treatments) {
    for (const spec of Object.values(parameters)) {
      expect(spec.default).toBeGreaterThanOrEqual(spec.min);
      expect(spec.default).toBeLessThanOrEqual(spec.max);
      expect(spec.practice[0]).toBeGreaterThanOrEqual(spec.min);
      expect(spec.practice[1]).toBeLessThanOrEqual(spec.max);
      expect(spec.sentence).toMatch(/\.$/);
    }
    expect(conflict?.(parametersOf(defaultTreatment(kind)))).toBeUndefined();
  }
});
