// Noise reduction against the textbook and against the ceiling: every mode, on talkers and noises that the speech model
// never heard. Prints what was asked for; writes the whole table, by SNR and method, to .euphonos/bench/noise.md.
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Chain, defaultTreatment, takeNoiseProfile, treatmentOf } from '../packages/dsp/dist/index.js';
import { SPEECH_LOOK_AHEAD } from '../packages/dsp/dist/noise/speech-model.js';
import { estoi, kernels, powerKurtosis, segmentalSnr, siSdr } from './measures.mjs';
import { cell, doubled, halved, noises, PROFILE_SECONDS, RATE_HZ, voices } from './noise-cells.mjs';
import { folder } from './sounds.mjs';
import { apply, ideal, methods, powers, profileOf, sizeAt } from './textbook.mjs';

const SNRS = (process.env.EUPHONOS_SNRS ?? '0,5,10,15,20').split(',').map(Number);
/** Three real ones and three made ones unless told; `all` takes half an hour. */
const NOISES = process.env.EUPHONOS_NOISES === 'all' ? undefined : (process.env.EUPHONOS_NOISES ?? '0,2,3,6,9,11').split(',').map(Number);
/** As deep as the log-MMSE rule goes in the gaps: less attenuation would be an easy win. */
const REDUCTION_DB = Number(process.env.EUPHONOS_REDUCTION_DB ?? 22);
const modes = (process.env.EUPHONOS_MODES ?? 'fixed,follow,tracked,voice').split(',');
const size = sizeAt(RATE_HZ);
const hop = size / 4;
const rms = (x, from = 0, to = x.length) => Math.sqrt(x.subarray(from, to).reduce((sum, v) => sum + v * v, 0) / (to - from));
const db = (ratio) => 20 * Math.log10(ratio + 1e-12);

/** Gains of the product, frame by frame on the grid of ./textbook. */
function productGains(heard, noiseProfile, settings) {
  const values = { ...defaultTreatment('noise-reduction'), reductionDb: REDUCTION_DB, ...settings };
  const processor = treatmentOf('noise-reduction').create({ sampleRateHz: RATE_HZ, channels: 1, kernels, noiseProfile }, values);
  const gains = [];
  const [input, output] = [new Float32Array(hop), new Float32Array(hop)];
  for (let f = 0; f < Math.ceil(heard.length / hop) + 3 + SPEECH_LOOK_AHEAD; f++) {
    input.fill(0);
    if (f * hop < heard.length) input.set(heard.subarray(f * hop, (f + 1) * hop));
    processor.process([input], [output], hop);
    if (f >= SPEECH_LOOK_AHEAD) gains.push(processor.insight(0).gain.slice());
  }
  return gains;
}

function measure(sound, gains) {
  const { clean, heard, noise, lead } = sound;
  const out = gains ? apply(heard, gains, size) : heard;
  const cut = (sound.cut ??= clean.subarray(lead));
  // In the lead, where there is noise alone and the gains have settled.
  const [from, to] = [Math.round(0.5 * RATE_HZ), lead - size];
  const left = gains ? apply(noise, gains, size) : noise;
  const voice = gains ? apply(clean, gains, size) : clean;
  return {
    estoi: estoi(cut, out.subarray(lead), RATE_HZ),
    siSdr: siSdr(cut, out.subarray(lead)),
    segmental: segmentalSnr(cut, out.subarray(lead), RATE_HZ),
    attenuation: db(rms(noise, from, to) / rms(left, from, to)),
    // Shadow filtering: the clean voice alone through the same gains.
    distortion: db(
      rms(clean, lead) /
        rms(
          voice.map((v, n) => v - clean[n]),
          lead,
        ),
    ),
    kurtosis: powerKurtosis(left, RATE_HZ, from, to) / powerKurtosis(noise, RATE_HZ, from, to),
  };
}

/** The mode that listens at 48 kHz, sample by sample: what needs its gains is left open. */
function measureVoice(sound) {
  const { clean, heard, noise, lead } = sound;
  const chain = new Chain(
    { sampleRateHz: 2 * RATE_HZ, channels: 1, kernels },
    { treatments: [{ ...defaultTreatment('noise-reduction'), reductionDb: REDUCTION_DB, mode: 'voice' }] },
  );
  const given = new Float32Array(2 * heard.length + chain.latencyFrames);
  given.set(doubled(heard));
  const made = new Float32Array(given.length);
  for (let from = 0; from < given.length; from += 4096) {
    const count = Math.min(4096, given.length - from);
    chain.process([given.subarray(from, from + count)], [made.subarray(from, from + count)], count);
  }
  const out = halved(made.subarray(chain.latencyFrames));
  const cut = clean.subarray(lead);
  const [from, to] = [Math.round(0.5 * RATE_HZ), lead - size];
  return {
    estoi: estoi(cut, out.subarray(lead), RATE_HZ),
    siSdr: siSdr(cut, out.subarray(lead)),
    segmental: segmentalSnr(cut, out.subarray(lead), RATE_HZ),
    attenuation: db(rms(noise, from, to) / rms(out, from, to)),
    distortion: NaN,
    kurtosis: powerKurtosis(out, RATE_HZ, from, to) / powerKurtosis(noise, RATE_HZ, from, to),
  };
}

const mean = (rows, name) => rows.reduce((sum, row) => sum + row[name], 0) / rows.length;

export function measureAll() {
  const rows = [];
  const names = Object.keys(noises).filter((_, i) => !NOISES || NOISES.includes(i));
  for (const voice of Object.keys(voices))
    for (const noise of names)
      for (const snrDb of SNRS) {
        const sound = cell(voice, noise, snrDb);
        const passage = sound.noise.subarray(0, PROFILE_SECONDS * RATE_HZ);
        const profile = profileOf(passage, size);
        const frames = powers(sound.heard, size);
        const put = (method, gains) => rows.push({ voice, noise, snrDb, method, ...measure(sound, gains) });
        put('noisy', null);
        for (const [name, gainsOf] of Object.entries(methods)) put(name, gainsOf(frames, profile.mean, profile));
        put('ideal', ideal(powers(sound.clean, size), powers(sound.noise, size)));
        const noiseProfile = takeNoiseProfile(kernels, [passage], RATE_HZ);
        for (const mode of modes)
          if (mode === 'voice') rows.push({ voice, noise, snrDb, method: mode, ...measureVoice(sound) });
          else put(mode, productGains(sound.heard, noiseProfile, { mode }));
      }
  return rows;
}

const columns = [
  ['estoi', 3],
  ['siSdr', 1],
  ['segmental', 1],
  ['attenuation', 1],
  ['distortion', 1],
  ['kurtosis', 2],
];

function table(rows) {
  const all = [...new Set(rows.map(({ method }) => method))];
  const line = (name, some) =>
    `| ${name} | ${columns.map(([c, digits]) => (Number.isNaN(mean(some, c)) ? '–' : mean(some, c).toFixed(digits))).join(' | ')} | ${Math.min(...some.map((r) => r.estoi)).toFixed(3)} | ${Math.min(...some.map((r) => r.siSdr)).toFixed(1)} |`;
  const head =
    '| Method | ESTOI | SI-SDR, dB | fw. seg. SNR, dB | noise taken, dB | voice over what it lost, dB | kurtosis ratio | worst ESTOI | worst SI-SDR |\n|---|---|---|---|---|---|---|---|---|';
  return [['all', rows], ...SNRS.map((snr) => [`${snr} dB`, rows.filter(({ snrDb }) => snrDb === snr)])]
    .map(
      ([title, some]) =>
        `### ${title}\n\n${head}\n${all
          .map((method) =>
            line(
              method,
              some.filter((row) => row.method === method),
            ),
          )
          .join('\n')}\n`,
    )
    .join('\n');
}

/** How many times real time one channel at 48 kHz takes, the better of three. */
function speed() {
  const rate = 48000;
  const noise = Float32Array.from({ length: 30 * rate }, (_, n) => 0.01 * Math.sin(n * n * 0.37));
  const noiseProfile = takeNoiseProfile(kernels, [noise.subarray(0, rate)], rate);
  return Math.max(
    ...[0, 1, 2].map(() => {
      const processor = treatmentOf('noise-reduction').create(
        { sampleRateHz: rate, channels: 1, kernels, noiseProfile },
        defaultTreatment('noise-reduction'),
      );
      const out = new Float32Array(4096);
      const before = process.cpuUsage();
      for (let from = 0; from + 4096 <= noise.length; from += 4096) processor.process([noise.subarray(from, from + 4096)], [out], 4096);
      return 30 / (process.cpuUsage(before).user / 1e6);
    }),
  );
}

export async function run() {
  const rows = measureAll();
  writeFileSync(join(folder, 'noise.md'), table(rows));
  const of = (method) => rows.filter((row) => row.method === method);
  const references = Object.keys(methods);
  const best = (name) => Math.max(...references.map((method) => mean(of(method), name)));
  const noisy = of('noisy');
  const gainOver = (method, name) => mean(of(method), name) - best(name);
  const worse = of('follow').filter((row, i) => row.estoi < noisy[i].estoi || row.siSdr < noisy[i].siSdr).length;
  return [
    {
      what: `noise reduction, ${noisy.length} mixes: ESTOI over the best textbook`,
      value: gainOver('follow', 'estoi'),
      limit: 0.02,
      atLeast: true,
    },
    {
      what: 'profile that follows: SI-SDR over the best textbook',
      value: gainOver('follow', 'siSdr'),
      limit: 0.5,
      unit: ' dB',
      atLeast: true,
    },
    {
      what: 'profile that follows: share of the way to the ideal gain, ESTOI',
      value: (100 * gainOver('follow', 'estoi')) / (mean(of('ideal'), 'estoi') - best('estoi')),
      unit: ' %',
    },
    {
      what: 'profile that follows: noise taken in the gaps, against log-MMSE',
      value: mean(of('follow'), 'attenuation') - mean(of('log-MMSE 1985'), 'attenuation'),
      limit: 0,
      unit: ' dB',
      atLeast: true,
    },
    { what: 'profile that follows: mixes worse than the input', value: worse, limit: 0 },
    {
      what: 'profile that follows: kurtosis ratio against log-MMSE',
      value: mean(of('follow'), 'kurtosis') / mean(of('log-MMSE 1985'), 'kurtosis'),
      limit: 1.1,
    },
    ...modes
      .filter((mode) => mode !== 'follow')
      .flatMap((mode) => [
        {
          what: `${mode}: ESTOI against the profile that follows`,
          value: mean(of(mode), 'estoi') - mean(of('follow'), 'estoi'),
          limit: -0.01,
          atLeast: true,
        },
        {
          what: `${mode}: SI-SDR against the profile that follows`,
          value: mean(of(mode), 'siSdr') - mean(of('follow'), 'siSdr'),
          limit: -0.5,
          unit: ' dB',
          atLeast: true,
        },
      ]),
    { what: 'noise reduction at 48 kHz, one channel: speed', value: speed(), limit: 200, unit: ' ×', atLeast: true },
  ];
}
