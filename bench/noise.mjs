// Noise reduction against the textbook and against the ceiling: every mode, on talkers and noises that the speech model
// never heard. Prints what was asked for; writes the whole table, by SNR and method, to .euphonos/bench/noise.md.
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { defaultTreatment, takeNoiseProfile, treatmentOf } from '../packages/dsp/dist/index.js';
import { readyFor } from '../packages/second-opinion/dist/index.js';
import { estoi, kernels, powerKurtosis, segmentalSnr, siSdr } from './measures.mjs';
import { cell, noises, PROFILE_SECONDS, RATE_HZ, voices } from './noise-cells.mjs';
import { folder } from './sounds.mjs';
import { apply, ideal, methods, powers, profileOf, sizeAt } from './textbook.mjs';

const SNRS = (process.env.EUPHONOS_SNRS ?? '5,15').split(',').map(Number);
/** The real ones unless told; `all` has made ones too. */
const NOISES = process.env.EUPHONOS_NOISES === 'all' ? undefined : (process.env.EUPHONOS_NOISES ?? '0,1,2,3,4,5,6').split(',').map(Number);
/** So deep that no less noise is taken than by the log-MMSE rule: less attenuation would be an easy win. */
const REDUCTION_DB = Number(process.env.EUPHONOS_REDUCTION_DB ?? 24);
const modes = (process.env.EUPHONOS_MODES ?? 'fixed,follow,tracked,voice,light,deep').split(',');
/** Light and deep: the profile that follows, with the small network, and with a second one asked. */
const settingsOf = (mode) => (mode === 'light' || mode === 'deep' ? { mode: 'follow', network: mode } : { mode });
const size = sizeAt(RATE_HZ);
const hop = size / 4;
const rms = (x, from = 0, to = x.length) => Math.sqrt(x.subarray(from, to).reduce((sum, v) => sum + v * v, 0) / (to - from));
const db = (ratio) => 20 * Math.log10(ratio + 1e-12);

/** What each mode may lie under the profile that follows. */
const limitsOf = { tracked: { estoi: -0.005, siSdr: -0.3 }, voice: { estoi: -0.005, siSdr: -0.3 } };

/** Gains of the product, frame by frame on the grid of ./textbook. */
function productGains(heard, noiseProfile, settings) {
  const values = { ...defaultTreatment('noise-reduction'), reductionDb: REDUCTION_DB, ...settings };
  const processor = treatmentOf('noise-reduction').create({ sampleRateHz: RATE_HZ, channels: 1, kernels, noiseProfile }, values);
  const gains = [];
  // So many frames later is the one that came weighed.
  const late = (processor.latencyFrames - size) / hop;
  const [input, output] = [new Float32Array(hop), new Float32Array(hop)];
  for (let f = 0; f < Math.ceil(heard.length / hop) + 3 + late; f++) {
    input.fill(0);
    if (f * hop < heard.length) input.set(heard.subarray(f * hop, (f + 1) * hop));
    processor.process([input], [output], hop);
    if (f >= late) gains.push(processor.insight(0).gain.slice());
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
        for (const mode of modes) put(mode, productGains(sound.heard, noiseProfile, settingsOf(mode)));
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
function speed(network) {
  const rate = 48000;
  const noise = Float32Array.from({ length: 30 * rate }, (_, n) => 0.01 * Math.sin(n * n * 0.37));
  const noiseProfile = takeNoiseProfile(kernels, [noise.subarray(0, rate)], rate);
  return Math.max(
    ...[0, 1, 2].map(() => {
      const processor = treatmentOf('noise-reduction').create(
        { sampleRateHz: rate, channels: 1, kernels, noiseProfile },
        { ...defaultTreatment('noise-reduction'), network },
      );
      const out = new Float32Array(4096);
      const before = process.cpuUsage();
      for (let from = 0; from + 4096 <= noise.length; from += 4096) processor.process([noise.subarray(from, from + 4096)], [out], 4096);
      return 30 / (process.cpuUsage(before).user / 1e6);
    }),
  );
}

export async function run() {
  await readyFor({ treatments: [{ kind: 'noise-reduction', network: 'deep' }] });
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
      limit: 0.015,
      atLeast: true,
    },
    {
      what: 'profile that follows: SI-SDR over the best textbook',
      value: gainOver('follow', 'siSdr'),
      limit: 0.8,
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
          limit: limitsOf[mode]?.estoi,
          atLeast: true,
        },
        {
          what: `${mode}: SI-SDR against the profile that follows`,
          value: mean(of(mode), 'siSdr') - mean(of('follow'), 'siSdr'),
          limit: limitsOf[mode]?.siSdr,
          unit: ' dB',
          atLeast: true,
        },
      ]),
    ...['estoi', 'siSdr'].flatMap((name) =>
      ['fixed', 'deep']
        .filter((mode) => modes.includes(mode))
        .map((mode) => ({
          what: `${mode}: ${name === 'estoi' ? 'ESTOI' : 'SI-SDR'} over the best textbook`,
          value: gainOver(mode, name),
          limit: name === 'siSdr' ? 0.8 : mode === 'deep' ? 0.025 : 0.015,
          unit: name === 'siSdr' ? ' dB' : '',
          atLeast: true,
        })),
    ),
    {
      what: 'noise reduction at 48 kHz, one channel: speed with the full network',
      value: speed('full'),
      limit: 60,
      unit: ' ×',
      atLeast: true,
    },
    {
      what: 'noise reduction at 48 kHz, one channel: speed of the deep choice',
      value: speed('deep'),
      limit: 4,
      unit: ' ×',
      atLeast: true,
    },
    {
      what: 'noise reduction at 48 kHz, one channel: speed with the light one',
      value: speed('light'),
      limit: 300,
      unit: ' ×',
      atLeast: true,
    },
  ];
}
