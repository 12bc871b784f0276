import { kernels, levelDb, mixed, noise, RATE_HZ, randomNumbers, sine, voice } from '../testing/signals.js';
import type { Finding, FindingKind } from './findings.js';
import { Surveyor } from './surveyor.js';
import { parseChain } from '../chain/chain-spec.js';

const survey = (channels: readonly Float32Array[], block = 4096): readonly Finding[] => {
  const surveyor = new Surveyor(kernels, RATE_HZ, channels.length);
  for (let from = 0; from < channels[0]!.length; from += block)
    surveyor.process(
      channels.map((x) => x.subarray(from, from + block)),
      Math.min(block, channels[0]!.length - from),
    );
  return surveyor.finish().findings;
};
const of = <K extends FindingKind>(findings: readonly Finding[], kind: K) =>
  findings.find((finding): finding is Finding & { kind: K } => finding.kind === kind);
const SECONDS = 16;
const talk = voice(SECONDS, 130, 11);
const clean = mixed(talk, noise(-72, SECONDS, 4));
const mended: readonly FindingKind[] = ['channel', 'dc-offset', 'clipping', 'dropouts', 'rumble', 'hum', 'hiss', 'gap-sounds'];

describe('clean talk', () => {
  const findings = survey([clean]);

  test('has its levels, and nothing to mend of what can be told for sure', () => {
    for (const kind of mended) expect(of(findings, kind)).toBeUndefined();
    expect(of(findings, 'noise-floor')!.dbfs).toBeCloseTo(-72, 0);
    const { db } = of(findings, 'speech-to-noise')!;
    expect(db).toBeGreaterThan(40);
  });

  test('is told from its pauses', () => {
    let sounding = 0;
    for (let at = 0; at < clean.length; at += 2400) if (levelDb(talk, at, at + 2400) > -50) sounding += 0.05;
    expect(of(findings, 'speech-level')!.talkSeconds).toBeGreaterThan(sounding * 0.85);
    expect(of(findings, 'speech-level')!.talkSeconds).toBeLessThan(sounding * 1.35);
  });

  test('reads the same whatever the block length, and every suggestion is a chain', () => {
    // Sums of blocks are rounded elsewhere, in the last digits.
    const rounded = (block: number): string =>
      JSON.stringify(survey([clean.subarray(0, 200_000)], block), (_, value: unknown) =>
        typeof value === 'number' ? Number(value.toPrecision(6)) : value,
      );
    expect(rounded(1000)).toBe(rounded(4096));
    for (const { suggestion } of findings) if (suggestion) expect(() => parseChain({ treatments: [suggestion] })).not.toThrow();
  });
});

test.each([
  [50, 6],
  [60, 3],
  [49.8, 4],
])('mains hum at %d Hz with %d harmonics: base to 0.1 Hz, lines and levels', (baseHz, count) => {
  let heard = clean;
  for (let h = 1; h <= count; h++) heard = mixed(heard, sine(baseHz * h, -50 - 2 * h, SECONDS));
  const hum = of(survey([heard]), 'hum')!;
  expect(Math.abs(hum.baseHz - baseHz)).toBeLessThan(0.1);
  expect(hum.source).toBe('mains');
  expect(hum.harmonics.length).toBeGreaterThanOrEqual(count - 1);
  // A sine of peak -52 dBFS has an RMS of -55.
  expect(Math.abs(hum.harmonics[0]!.dbfs + 55)).toBeLessThan(2);
  expect(hum.suggestion).toMatchObject({ kind: 'hum-lines' });
});

test('a stray tone is no mains: below 1 kHz a notch, above it a band of tone, to a hertz', () => {
  expect(of(survey([mixed(clean, sine(437.3, -54, SECONDS))]), 'hum')).toMatchObject({
    source: 'stray',
    suggestion: { kind: 'hum-notch', harmonicsOn: [1] },
  });
  expect(Math.abs(of(survey([mixed(clean, sine(437.3, -54, SECONDS))]), 'hum')!.baseHz - 437.3)).toBeLessThan(0.11);
  const high = of(survey([mixed(clean, sine(6213.4, -60, SECONDS))]), 'hum')!;
  expect(Math.abs(high.baseHz - 6213.4)).toBeLessThan(1);
  expect(high.suggestion).toMatchObject({ kind: 'tone' });
});

test('rumble below the voice, with a high-pass under its lowest note', () => {
  const rumble = of(survey([mixed(clean, noise(-20, SECONDS, 8).map(lowPassed(0.004)))]), 'rumble')!;
  expect(rumble.lowestVoiceHz).toBeGreaterThan(100);
  expect(rumble.lowestVoiceHz).toBeLessThan(145);
  expect(rumble.suggestion!['cutoffHz']).toBeLessThan(rumble.lowestVoiceHz!);
});

function lowPassed(share: number): (x: number) => number {
  let a = 0;
  let b = 0;
  return (x) => {
    a += share * (x - a);
    b += share * (a - b);
    return b;
  };
}

test('an offset as a fraction of full scale', () => {
  expect(of(survey([clean.map((x) => x - 0.02)]), 'dc-offset')!.fraction).toBeCloseTo(-0.02, 3);
});

test('clipping: how many, where, at which level, also lowered afterwards', () => {
  const peak = clean.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
  const at = (factor: number): Finding & { kind: 'clipping' } =>
    of(survey([clean.map((x) => factor * Math.max(-0.5 * peak, Math.min(0.5 * peak, x)))]), 'clipping')!;
  for (const factor of [1, 0.25]) {
    expect(at(factor).levelDbfs).toBeCloseTo(20 * Math.log10(0.5 * peak * factor), 1);
    expect(at(factor).count).toBeGreaterThan(20);
    expect(at(factor).shape).toBe('hard');
  }
});

test('dropouts are holes in sound, not pauses of zeros', () => {
  const holed = Float32Array.from(clean);
  const places: number[] = [];
  for (let at = 30_000; places.length < 5 && at < holed.length; at += 30_000)
    if (levelDb(talk, at - 400, at) > -40) {
      holed.fill(0, at, at + 600);
      places.push(at / RATE_HZ);
    }
  const found = of(survey([holed]), 'dropouts')!;
  expect(found.count).toBe(places.length);
  found.spans.forEach(({ startSeconds }, i) => expect(startSeconds).toBeCloseTo(places[i]!, 2));
  const gated = clean.map((x, n) => (levelDb(talk, Math.max(0, n - (n % 480) - 2400), n - (n % 480) + 2400) > -60 ? x : 0));
  expect(of(survey([gated]), 'dropouts')).toBeUndefined();
});

test.each<[string, (x: Float32Array) => Float32Array[], string]>([
  ['dead', (x) => [x, new Float32Array(x.length)], 'dead'],
  ['quieter', (x) => [x.map((v) => v * 0.1), x], 'quieter'],
  ['identical', (x) => [x, x], 'identical'],
  [
    'opposite',
    (x) => [
      x,
      mixed(
        x.map((v) => -v),
        noise(-75, SECONDS, 6),
      ),
    ],
    'opposite',
  ],
])('a %s channel', (_, make, problem) => {
  expect(of(survey(make(clean)), 'channel')).toMatchObject({ problem });
  expect(of(survey([clean, mixed(talk, noise(-72, SECONDS, 99))]), 'channel')).toBeUndefined();
});

test('hiss is told by its level above 4 kHz; noise passages lie where nobody talks', () => {
  const findings = survey([mixed(talk, noise(-50, SECONDS, 5))]);
  // White noise to 24 kHz: 4 to 16 kHz hold half of it, -3 dB.
  expect(of(findings, 'hiss')!.dbfs).toBeCloseTo(-53, 0);
  for (const { startSeconds, endSeconds } of of(findings, 'noise-passages')?.spans ?? [])
    expect(levelDb(talk, Math.round(startSeconds * RATE_HZ), Math.round(endSeconds * RATE_HZ))).toBeLessThan(-45);
});

test('a voice that ends at 3.4 kHz', () => {
  const next = randomNumbers(3);
  const band = (x: Float32Array): Float32Array => {
    // Windowed-sinc low-pass at 3.4 kHz, 401 taps.
    const taps = Array.from({ length: 401 }, (_, i) => {
      const t = i - 200;
      const sinc = t === 0 ? (2 * 3400) / RATE_HZ : Math.sin((2 * Math.PI * 3400 * t) / RATE_HZ) / (Math.PI * t);
      return sinc * (0.54 + 0.46 * Math.cos((Math.PI * t) / 200));
    });
    return x.map((_, n) => taps.reduce((sum, tap, i) => sum + tap * (x[n - i] ?? 0), 0));
  };
  const bright = talk.subarray(0, 4 * RATE_HZ).map((x) => x + Math.abs(x) * 0.3 * next());
  const { hz } = of(survey([mixed(band(bright), noise(-85, 4, 2))]), 'bandwidth')!;
  expect(Math.abs(hz - 3400)).toBeLessThan(250);
});

test('nothing at all, and less than a frame, have no findings and no NaN', () => {
  for (const samples of [new Float32Array(RATE_HZ), new Float32Array(0), noise(-20, 0.01)]) {
    const text = JSON.stringify(survey([samples]));
    expect(text).not.toMatch(/NaN/);
    expect(of(survey([samples, samples.slice()]), 'channel')?.problem).not.toBe('dead');
  }
});
