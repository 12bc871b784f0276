import { parseChain, type ChainSpec } from '@euphonos/dsp';
import { aloneChain, narrowBandChain, splitChain } from './split-chain.js';

const chain = (...treatments: object[]): ChainSpec =>
  parseChain({ treatments: treatments.map((treatment, i) => ({ id: `t${i}`, ...treatment })) });
const kinds = ({ treatments }: ChainSpec): string[] => treatments.map(({ kind }) => kind);

test('all that can run live is live', () => {
  const { prepared, live } = splitChain(chain({ kind: 'high-pass' }, { kind: 'gate' }));
  expect([kinds(prepared), kinds(live)]).toEqual([[], ['high-pass', 'gate']]);
});

test('everything up to the last treatment of the background is prepared; bypassed ones do not count', () => {
  const split = splitChain(
    chain({ kind: 'high-pass' }, { kind: 'clicks' }, { kind: 'gate' }, { kind: 'spots', bypassed: true }, { kind: 'tone' }),
  );
  expect([kinds(split.prepared), kinds(split.live)]).toEqual([
    ['high-pass', 'clicks'],
    ['gate', 'spots', 'tone'],
  ]);
});

test('heard alone: what comes after does not matter, wherever it runs', () => {
  const spec = chain({ kind: 'clicks' }, { kind: 'hum-lines' }, { kind: 'gate' });
  expect(splitChain(aloneChain(spec, 't1'))).toMatchObject({
    prepared: { treatments: [{ kind: 'clicks' }] },
    live: { treatments: [{ kind: 'hum-lines' }], alone: 't1' },
  });
  const inBackground = splitChain(aloneChain(spec, 't0'));
  expect(inBackground.prepared.alone).toBe('t0');
  expect(inBackground.live.treatments).toEqual([]);
  expect(aloneChain(chain({ kind: 'gate', bypassed: true }), 't0')).toEqual({ treatments: [], alone: 't0' });
});

test('a sweep ends in a narrow band at its place', () => {
  expect(narrowBandChain(chain({ kind: 'high-pass' }, { kind: 'tone' }, { kind: 'gate' }), 't1', 2500.4)).toMatchObject({
    treatments: [{ kind: 'high-pass' }, { kind: 'tone', bands: [{ shape: 'band-pass', frequencyHz: 2500 }, {}] }],
  });
});
