// The sound check: thresholds of a gate from three short listens, in twenty made rooms that they were not tuned on; what the live form of
// noise reduction costs against the recorded one; how late the live chain is.
import {
  Chain,
  chainForTake,
  checkSound,
  defaultTreatment,
  gateTrack,
  LiveChain,
  parametersOf,
  parseChain,
  Surveyor,
  takeNoiseProfile,
  treatmentOf,
  treatmentKinds,
} from '../packages/dsp/dist/index.js';
import { estoi, kernels, siSdr } from './measures.mjs';
import { cell, noises, PROFILE_SECONDS, RATE_HZ as CELL_RATE_HZ, voices } from './noise-cells.mjs';
import { rms, room, RATE_HZ } from './rooms-to-check.mjs';
import { median } from './sounds.mjs';

const ROOMS = Number(process.env.EUPHONOS_ROOMS ?? 20);
/** What is so far under the top of its word is not missed; a word loses what is lowered by more than 3 dB. */
const AUDIBLE_DB = 25;
const LOST_GAIN = 10 ** (-3 / 20);
const MAY_MISS_MS = 10;
const SHUT_GAIN = 0.5;

const quantile = (values, share) => [...values].sort((a, b) => a - b)[Math.floor(share * values.length)];

function through(processor, sound) {
  const late = processor.latencyFrames;
  const out = new Float32Array(sound.length + late);
  out.set(sound);
  for (let at = 0; at < out.length; at += 4096) {
    const part = out.subarray(at, at + 4096);
    processor.process([part], [part], part.length);
  }
  return out.subarray(late);
}

/** Words of the dry voice, in milliseconds of its track: what stands out for 60 ms, gaps of 120 ms apart. */
function wordsOf(track, floorDb) {
  const top = quantile(track, 0.99);
  const words = [];
  let [start, last] = [-1, -1];
  const take = () => {
    if (start < 0 || last - start < 60) return;
    const level = track.subarray(start, last + 1).reduce((most, v) => Math.max(most, v), -200);
    if (level > top - 30) words.push({ start, last, level });
  };
  track.forEach((level, k) => {
    if (level <= Math.max(floorDb, top - 45)) return;
    if (start >= 0 && k - last > 120) {
      take();
      start = -1;
    }
    if (start < 0) start = k;
    last = k;
  });
  take();
  return words;
}

/** The gate's own gain at every sample. */
const gainsOf = (gate, sound) => through(gate, sound).map((y, n) => (Math.abs(sound[n]) > 1e-8 ? y / sound[n] : NaN));

function shutShare(gains, [from, to]) {
  let [shut, count] = [0, 0];
  for (let n = Math.round((from + 0.6) * RATE_HZ); n < (to - 0.1) * RATE_HZ; n += 48) {
    if (Number.isNaN(gains[n])) continue;
    count++;
    if (gains[n] < SHUT_GAIN) shut++;
  }
  return shut / count;
}

/** What is known of a take afterwards: where its survey hears nobody talk, as a take's gate is told it. */
function quietOf(sound) {
  const surveyor = new Surveyor(kernels, RATE_HZ, 1);
  surveyor.process([sound], sound.length);
  const spans = surveyor.finish().findings.find(({ kind }) => kind === 'pauses')?.spans ?? [];
  return spans
    .map(({ startSeconds, endSeconds }) => ({ startSeconds: startSeconds === 0 ? 0 : startSeconds + 0.4, endSeconds: endSeconds - 0.25 }))
    .filter(({ startSeconds, endSeconds }) => endSeconds - startSeconds > 0.05);
}

function judge(index) {
  const { name, listens, judged } = room(index);
  const { chain, thresholds, profile } = checkSound(kernels, RATE_HZ, listens);
  const context = { sampleRateHz: RATE_HZ, channels: 1, kernels, noiseProfile: profile };
  const at = chain.treatments.findIndex(({ kind }) => kind === 'gate');
  const before = { treatments: at < 0 ? chain.treatments : chain.treatments.slice(0, at) };
  // A recording's own rumble is no word: the voice as the chain's high-pass leaves it.
  const highPass = { treatments: chain.treatments.filter(({ kind }) => kind === 'high-pass') };
  const track = gateTrack(kernels, through(new Chain(context, highPass), judged.dry), RATE_HZ, 'all');
  const floorDb = quantile(gateTrack(kernels, judged.heard.subarray(0, 6 * RATE_HZ), RATE_HZ, 'all'), 0.5);
  // The first word may be cut in two where the talk was cut.
  const words = wordsOf(track, floorDb).filter(({ start }) => start > 1000 * judged.spans.speech[0] + 200);
  const lostOf = (gains) =>
    words.map(({ start, last, level }) => {
      let missed = 0;
      for (let k = start; k <= last; k++)
        if (track[k] > Math.max(floorDb, level - AUDIBLE_DB) && gains[Math.round((k + 40) * (RATE_HZ / 1000))] < LOST_GAIN) missed++;
      return missed;
    });
  if (at < 0) return { name, thresholds, words: words.length, none: true };
  const gate = treatmentOf('gate');
  const values = parametersOf({ ...chainForTake(chain, thresholds).treatments[at], quiet: quietOf(judged.heard) });
  const recorded = gainsOf(gate.create(context, values), through(new Chain(context, before), judged.heard));
  const live = gainsOf(
    gate.live.create(context, parametersOf(chain.treatments[at])),
    through(new LiveChain(context, before), judged.heard),
  );
  return {
    name,
    thresholds,
    words: words.length,
    silence: shutShare(recorded, judged.spans.silence),
    usual: shutShare(recorded, judged.spans.usual),
    liveUsual: shutShare(live, judged.spans.usual),
    lost: lostOf(recorded),
    liveLost: lostOf(live),
  };
}

/** Live noise reduction against the recorded one: means over talkers and noises that nothing was tuned on, at 24 kHz. */
function costOfLive() {
  const rows = [];
  const db = (ratio) => 20 * Math.log10(ratio);
  for (const voice of Object.keys(voices).slice(0, 3))
    for (const noise of Object.keys(noises).filter((_, i) => [0, 1, 3, 5].includes(i)))
      for (const snr of [5, 15]) {
        const { clean, heard, noise: hiss, lead } = cell(voice, noise, snr);
        const noiseProfile = takeNoiseProfile(kernels, [hiss.subarray(0, PROFILE_SECONDS * CELL_RATE_HZ)], CELL_RATE_HZ);
        const context = { sampleRateHz: CELL_RATE_HZ, channels: 1, kernels, noiseProfile };
        const spec = parseChain({ treatments: [{ kind: 'noise-reduction', reductionDb: 12 }] });
        const measured = (out) => ({
          estoi: estoi(clean.subarray(lead), out.subarray(lead), CELL_RATE_HZ),
          siSdr: siSdr(clean.subarray(lead), out.subarray(lead)),
          taken: db(rms(hiss, CELL_RATE_HZ / 2, lead - 2000) / rms(out, CELL_RATE_HZ / 2, lead - 2000)),
        });
        rows.push({
          noisy: measured(heard),
          live: measured(through(new LiveChain(context, spec), heard)),
          recorded: measured(through(new Chain(context, spec), heard)),
        });
      }
  return (method, name) => rows.reduce((sum, row) => sum + row[method][name], 0) / rows.length;
}

/** Time for a quantum of the live chain with every treatment that has a live form, the median of a minute of them. */
function quantumMicroseconds() {
  const next = (n) => 0.05 * Math.sin(n * 0.05) * Math.sin(n * 0.00013) + 0.001 * Math.sin(n * n * 0.37);
  const sound = Float32Array.from({ length: 20 * RATE_HZ }, (_, n) => next(n));
  const noiseProfile = takeNoiseProfile(kernels, [sound.subarray(0, RATE_HZ)], RATE_HZ);
  const spec = { treatments: treatmentKinds.map((kind) => defaultTreatment(kind)) };
  const chain = new LiveChain({ sampleRateHz: RATE_HZ, channels: 1, kernels, noiseProfile }, spec);
  const out = new Float32Array(128);
  const times = [];
  for (let at = 0; at + 128 <= sound.length; at += 128) {
    const begun = performance.now();
    chain.process([sound.subarray(at, at + 128)], [out], 128);
    times.push(1000 * (performance.now() - begun));
  }
  const settled = times.slice(1000);
  return { median: median(settled), most: quantile(settled, 0.999), lateMs: (1000 * chain.latencyFrames) / RATE_HZ };
}

export async function run() {
  const rooms = [];
  for (let i = 0; i < ROOMS; i++) {
    const judged = judge(i);
    rooms.push(judged);
    const { name, thresholds: t, none } = judged;
    const share = (value) => `${Math.round(100 * value)} %`;
    console.log(
      `  ${String(i + 1).padStart(2)} ${name}: ${t.listens}, shuts ${t.shuts}, opens ${t.openDb} (recorded ${t.recorded.openDb}), floor ${t.floorDb.toFixed(1)}, usual ${t.usualDb.toFixed(1)}, softest ${t.softestDb.toFixed(1)}; ` +
        (none
          ? 'no gate'
          : `silence ${share(judged.silence)}, keys ${share(judged.usual)} (live ${share(judged.liveUsual)}), of ${judged.words} words ${judged.lost.filter((ms) => ms > MAY_MISS_MS).length} lose (worst ${Math.max(...judged.lost)} ms; live ${judged.liveLost.filter((ms) => ms > MAY_MISS_MS).length}, worst ${Math.max(...judged.liveLost)} ms)`),
    );
  }
  const gated = rooms.filter(({ none }) => !none);
  const mean = (values) => values.reduce((sum, value) => sum + value, 0) / values.length;
  const kept = (lists) => 100 * mean(lists.flat().map((ms) => (ms > MAY_MISS_MS ? 0 : 1)));
  const byLevel = gated.filter(({ thresholds }) => thresholds.shuts === 'all');
  const cost = costOfLive();
  const quantum = quantumMicroseconds();
  return [
    { what: `rooms of ${rooms.length} in which a gate is set`, value: gated.length },
    { what: '… by level alone, shut for the usual noise live as well', value: byLevel.length },
    { what: 'recorded chain: gate shut on silence', value: 100 * mean(gated.map((r) => r.silence)), limit: 95, unit: ' %', atLeast: true },
    { what: 'recorded chain: gate shut on typing', value: 100 * mean(gated.map((r) => r.usual)), limit: 95, unit: ' %', atLeast: true },
    {
      what: 'live, where it is by level alone: shut on typing',
      value: 100 * mean(byLevel.map((r) => r.liveUsual)),
      limit: 95,
      unit: ' %',
      atLeast: true,
    },
    { what: 'recorded chain: words that lose 10 ms or less', value: kept(gated.map((r) => r.lost)), limit: 99, unit: ' %', atLeast: true },
    { what: 'live: words that lose 10 ms or less', value: kept(gated.map((r) => r.liveLost)), unit: ' %' },
    {
      what: 'live: the loss that nine words in ten stay under',
      value: quantile(
        gated.flatMap((r) => r.liveLost),
        0.9,
      ),
      unit: ' ms',
    },
    { what: 'live chain of every treatment, late by', value: quantum.lateMs, limit: 15, unit: ' ms' },
    { what: 'a quantum of it, median', value: quantum.median, unit: ' µs' },
    { what: 'a quantum of it, 99.9 %', value: quantum.most, limit: 1300, unit: ' µs' },
    ...['estoi', 'siSdr', 'taken'].flatMap((name) =>
      ['noisy', 'live', 'recorded'].map((method) => ({
        what: `noise reduction of 12 dB, ${method}: ${{ estoi: 'ESTOI', siSdr: 'SI-SDR', taken: 'noise taken in the gaps' }[name]}`,
        value: cost(method, name),
        unit: name === 'estoi' ? '' : ' dB',
      })),
    ),
  ];
}
