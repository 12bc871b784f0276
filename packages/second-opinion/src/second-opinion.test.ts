import { inBackground, memoryKey, parametersOf, parseChain, takeNoiseProfile, treatmentOf, withoutDeep } from '@euphonos/dsp';
import { conformance } from '../../dsp/src/testing/conformance.js';
import { kernels, levelDb, mixed, noise, RATE_HZ, run, voice } from '../../dsp/src/testing/signals.js';
import { SecondOpinion } from '../../dsp/src/treatments/noise-reduction/second-opinion.js';
import { needsOpinion, readyFor } from './index.js';

const deep = parseChain({ treatments: [{ kind: 'noise-reduction', network: 'deep', reductionDb: 24 }] });
const settings = deep.treatments[0]!;
const made = (network: string, channels = 1, rate = RATE_HZ) =>
  treatmentOf('noise-reduction').create(
    {
      sampleRateHz: rate,
      channels,
      kernels,
      noiseProfile: takeNoiseProfile(
        kernels,
        Array.from({ length: channels }, (_, c) => noise(-50, 2, c + 3)),
        rate,
      ),
    },
    { ...parametersOf(settings), network },
  );

test('before it is loaded it says what is missing; a chain without it needs nothing', async () => {
  expect(() => made('deep')).toThrow(expect.objectContaining({ code: 'opinion-missing' }));
  await readyFor(parseChain({ treatments: [{ kind: 'gate' }] }));
  expect(() => made('deep')).toThrow(expect.objectContaining({ code: 'opinion-missing' }));
});

describe('once it is there', () => {
  beforeAll(() => readyFor(deep));

  describe('conformance', () => conformance(() => made('deep', 2)));

  test.each([8000, 16_000, 24_000, 44_100, 48_000, 96_000])('at %i Hz what it says is in line with the frame that is weighed', (rate) => {
    const size = 2 ** Math.round(Math.log2(rate * 0.0427));
    const hop = size / 4;
    const opinion = new SecondOpinion(rate, 1, size, 2 * hop);
    expect(opinion.delayFrames % hop).toBe(0);
    let phase = 0;
    const x = Float32Array.from({ length: 3 * rate }, (_, n) => {
      phase += (2 * Math.PI * (130 + 40 * Math.sin((5 * n) / rate))) / rate;
      let v = 0;
      for (let h = 1; h < 20 && h * 180 < 0.45 * rate; h++) v += Math.sin(h * phase) / h;
      return 0.1 * v * Math.max(0, Math.sin((8 * n) / rate));
    });
    const [held, said] = [new Float32Array(hop), new Float32Array(size)];
    const match = new Map<number, number>();
    for (let heard = hop; heard <= x.length; heard += hop) {
      opinion.push(0, x, heard - hop, hop, held, 0);
      opinion.say(0, said);
      const from = heard - opinion.delayFrames - 2 * hop - size;
      if (from < rate) continue;
      for (let lag = -30; lag <= 30; lag++)
        match.set(
          lag,
          said.reduce((sum, v, n) => sum + v * x[from + n + lag]!, match.get(lag) ?? 0),
        );
    }
    const best = [...match].reduce((most, one) => (one[1] > most[1] ? one : most))[0];
    // Within a tenth of a millisecond.
    expect(Math.abs(best)).toBeLessThanOrEqual(Math.max(1, rate / 10_000));
  });

  test('the gaps are as low as with the network alone, the words no lower', () => {
    const talk = voice(4, 120);
    const sound = [mixed(talk, noise(-45, 4, 9))];
    const [one, other] = ['full', 'deep'].map((network) => {
      const processor = made(network);
      const out = run(processor, sound)[0]!;
      return { out, late: processor.latencyFrames };
    }) as [{ out: Float32Array; late: number }, { out: Float32Array; late: number }];
    const level = ({ out, late }: typeof one): number => levelDb(out, RATE_HZ + late, out.length);
    expect(level(other)).toBeGreaterThan(level(one) - 0.5);
    expect(level(other)).toBeLessThan(level(one) + 1.5);
  });

  test('it is rendered in the background, and only it', () => {
    const definition = treatmentOf('noise-reduction');
    for (const [network, background] of [
      ['deep', true],
      ['full', false],
      ['light', false],
    ] as const)
      expect(inBackground(definition, { ...parametersOf(settings), network } as never)).toBe(background);
    expect(needsOpinion(deep)).toBe(true);
    expect(memoryKey(deep)).not.toBe('');
  });

  test('where nothing can be prepared it is the full network', () => {
    expect(withoutDeep(deep).treatments[0]).toMatchObject({ kind: 'noise-reduction', network: 'full', reductionDb: 24 });
    const gate = parseChain({ treatments: [{ kind: 'gate' }] });
    expect(withoutDeep(gate)).toBe(gate);
  });
});
