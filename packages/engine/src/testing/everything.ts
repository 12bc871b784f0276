import { noise, RATE_HZ } from '../../../dsp/src/testing/signals.js';

/** Talk with pauses over a room that gets louder, a hum that drifts, an s, a burst of air: 9 s. */
export const talk = ((): Float32Array => {
  const seconds = 9;
  const length = seconds * RATE_HZ;
  const room = noise(-52, seconds, 3);
  const hiss = noise(-24, seconds, 4);
  let [phase, last] = [0, 0];
  return Float32Array.from({ length }, (_, n) => {
    const t = n / RATE_HZ;
    const word = Math.max(0, Math.sin(2 * Math.PI * 0.55 * t + Math.sin(1.7 * t))) ** 0.6;
    phase += (2 * Math.PI * (120 + 40 * Math.sin(2.1 * t))) / RATE_HZ;
    let voice = 0;
    for (let h = 1; h < 14; h++) voice += Math.sin(h * phase) / h;
    const s = Math.max(0, Math.sin(2 * Math.PI * 0.8 * t)) ** 12;
    const sharp = hiss[n]! - last;
    last = hiss[n]!;
    const burst = Math.max(0, Math.sin(2 * Math.PI * 0.37 * t)) ** 80 * Math.sin(2 * Math.PI * 62 * t);
    const hum = [1, 2, 3, 5].reduce((sum, h) => sum + (0.004 / h) * Math.sin(2 * Math.PI * h * (50.02 * t + 0.004 * t * t)), 0);
    return 0.12 * word * voice + 1.5 * s * sharp + 0.3 * burst + hum + room[n]! * (1 + 0.12 * t);
  });
})();

const tone = {
  bands: [
    { shape: 'low-shelf', frequencyHz: 150, gainDb: -6, q: 0.7 },
    { shape: 'bell', frequencyHz: 360, gainDb: 4, q: 2 },
  ],
};
const noiseReduction = ['fixed', 'follow', 'tracked', 'voice'].flatMap((mode) =>
  ['full', 'light'].map((network): [string, object] => [
    `noise reduction, ${mode}, ${network}`,
    { kind: 'noise-reduction', mode, network },
  ]),
);
/** Chains that remember for long, or work in blocks: a name and its treatments. */
export const everything: readonly [string, ...object[]][] = [
  ['channels', { kind: 'channels', polarity: 'first' }],
  ['high-pass', { kind: 'high-pass' }],
  ['plosives', { kind: 'plosives' }],
  ['tone', { kind: 'tone', ...tone }],
  ['room', { kind: 'room' }],
  ['sibilance', { kind: 'sibilance' }],
  ['expander, slow', { kind: 'expander', releaseMs: 2000 }],
  ['gate, held long', { kind: 'gate', holdMs: 1000, releaseMs: 2000, openDb: -34, closeDb: -46 }],
  ['hum-lines', { kind: 'hum-lines' }],
  ['hum-lines that follow', { kind: 'hum-lines', drift: 'follow' }],
  ['narrow notches', { kind: 'hum-notch', widthHz: 1 }],
  ['notches that follow', { kind: 'hum-notch', drift: 'follow' }],
  ...noiseReduction,
  ['slow gains', { kind: 'noise-reduction', mode: 'tracked', closingMs: 400 }],
  [
    'lines, tracked noise, sibilance, gate',
    { kind: 'hum-lines' },
    { kind: 'noise-reduction', mode: 'tracked' },
    { kind: 'sibilance' },
    { kind: 'gate' },
  ],
];
