// What the survey tells about the talk itself and what lies between: speech activity, breaths, noise passages, sibilance,
// bandwidth, soft clipping, each with what it must not be mistaken for.
import { execFileSync } from 'node:child_process';
import {
  defaultTreatment,
  evenLevels,
  findPauses,
  LevelTracker,
  loweredPauses,
  suggestPauseThresholds,
} from '../packages/dsp/dist/index.js';
import { Features } from '../packages/dsp/dist/survey/features.js';
import { findTalk } from '../packages/dsp/dist/survey/talk.js';
import { clipped, db, power, softlyClipped, talk, withBreaths, withHum, withNoise, withPlosives } from './known-faults.mjs';
import { treat } from './quality.mjs';
import { speech, talkers } from './speech.mjs';
import { kernels, RATE_HZ, spaced, survey } from './survey.mjs';

const SECONDS = 60;
/** A line that was sampled at another rate: nothing above a little less than half of it. */
function narrowed(x, lineHz) {
  const at = (rate, bytes) =>
    execFileSync(
      'ffmpeg',
      [
        '-v',
        'error',
        '-f',
        'f32le',
        '-ar',
        String(rate[0]),
        '-ac',
        '1',
        '-i',
        '-',
        '-af',
        `aresample=${rate[1]}:resampler=soxr`,
        '-f',
        'f32le',
        '-',
      ],
      { input: bytes, maxBuffer: 1 << 30 },
    );
  const bytes = at([lineHz, RATE_HZ], at([RATE_HZ, lineHz], Buffer.from(x.buffer, x.byteOffset, x.byteLength)));
  return withNoise(new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length)), -85, 19);
}
const harsh = (x) => treat('tone', { bands: [{ shape: 'high-shelf', frequencyHz: 4500, gainDb: 18, q: 0.7 }] }, x).out;
const finding = (x, kind) => survey([x]).find((other) => other.kind === kind && other.certainty >= 0.5);
const ratio = (what, right, all, limit = 0.9) => ({ what: `${what} (${all})`, value: right / Math.max(1, all), limit, atLeast: true });

/** Frames of talk found and wrongly found, at a level of white noise. What is talk is read from the clean sound. */
function activity(noiseDb) {
  let hit = 0,
    talking = 0,
    wrong = 0,
    silent = 0;
  for (const talker of talkers) {
    const clean = speech(talker, SECONDS, RATE_HZ);
    const features = new Features(kernels, RATE_HZ, () => {});
    features.process(withNoise(clean, noiseDb, 15), clean.length);
    const found = findTalk(features).isTalk;
    const { step, is } = talk(clean, RATE_HZ);
    // Clear cases: in the middle of words, or 150 ms away from any.
    for (let i = 4; i < is.length - 4; i++) {
      const frame = Math.round(((i + 0.5) * step) / (features.frameSeconds * RATE_HZ)) - 1;
      const around = is.subarray(i - 3, i + 4);
      if (is[i - 1] && is[i] && is[i + 1]) {
        talking++;
        hit += found[frame];
      } else if (!around.some((x) => x)) {
        silent++;
        wrong += found[frame];
      }
    }
  }
  return { hit: hit / talking, wrong: wrong / silent, talking };
}

function breathRows() {
  let put = 0,
    hit = 0,
    told = 0,
    right = 0,
    plain = 0;
  for (const talker of talkers) {
    const clean = spaced(talker);
    const before = finding(clean, 'breaths')?.spans ?? [];
    plain += before.length;
    const { heard, breaths } = withBreaths(clean, RATE_HZ);
    const spans = finding(heard, 'breaths')?.spans ?? [];
    const near = (span, { at, end }) =>
      Math.min(span.endSeconds, end / RATE_HZ) - Math.max(span.startSeconds, at / RATE_HZ) > 0.4 * ((end - at) / RATE_HZ);
    put += breaths.length;
    hit += breaths.filter((breath) => spans.some((span) => near(span, breath))).length;
    told += spans.length;
    right += spans.filter((span) => breaths.some((breath) => near(span, breath))).length;
  }
  return [
    ratio('breaths, one by one: recall', hit, put, 0.85),
    ratio('breaths, one by one: precision, told', right, told),
    { what: `breaths told where none was put, in ${(talkers.length * 40) / 60} min`, value: plain },
  ];
}

function passageRows() {
  let pauses = 0,
    found = 0,
    told = 0,
    clear = 0;
  for (const talker of talkers) {
    const clean = spaced(talker);
    const heard = withNoise(clean, -55, 16);
    const spans = finding(heard, 'noise-passages')?.spans ?? [];
    const { step, is } = talk(clean, RATE_HZ);
    for (let i = 0; i < is.length;) {
      let end = i;
      while (end < is.length && !is[end]) end++;
      const [from, to] = [(i * step) / RATE_HZ, (end * step) / RATE_HZ];
      if (to - from > 1) {
        pauses++;
        found += spans.some(({ startSeconds, endSeconds }) => Math.min(endSeconds, to) - Math.max(startSeconds, from) > 0.5) ? 1 : 0;
      }
      i = Math.max(end, i + 1);
    }
    told += spans.length;
    // Clear of words: the talk that reaches into it stays 10 dB under its noise.
    clear += spans.filter(
      ({ startSeconds, endSeconds }) => db(power(clean, Math.round(startSeconds * RATE_HZ), Math.round(endSeconds * RATE_HZ))) < -65,
    ).length;
  }
  return [
    ratio('noise-passages: pauses over 1 s found', found, Math.min(pauses, 60)),
    ratio('noise-passages: clear of words, told', clear, told),
  ];
}

/** What of a recording is lowered by pauses as they come: found by voice and level, thresholds from the gaps. */
function pausesOf(heard) {
  const quiet = finding(heard, 'pauses')?.spans ?? [];
  const tracker = new LevelTracker(RATE_HZ);
  tracker.process([heard], heard.length);
  const { stepSeconds, meanSquares } = tracker.finish();
  const levels = evenLevels({ stepSeconds, meanSquares });
  const settings = { ...defaultTreatment('pauses'), ...suggestPauseThresholds(levels, stepSeconds, quiet) };
  return loweredPauses({
    ...settings,
    pauses: findPauses(levels, stepSeconds, quiet, settings).map((span) => ({ ...span, state: 'treat' })),
  });
}

/** Words (runs of talk in the clean sound) that lose more than 10 ms to pauses lowered at their defaults, by how far the noise lies under the talk. */
export function pauseRows() {
  return [-50, -35].flatMap((noiseDb) => {
    let words = 0,
      touched = 0,
      pauses = 0,
      lowered = 0;
    for (const talker of talkers) {
      const clean = spaced(talker);
      const parts = pausesOf(withNoise(clean, noiseDb, 17));
      const { step, is } = talk(clean, RATE_HZ);
      const at = (i) => (i * step) / RATE_HZ;
      for (let i = 0; i < is.length;) {
        let end = i;
        while (end < is.length && is[end] === is[i]) end++;
        const overlap = parts.reduce(
          (sum, { startSeconds, endSeconds }) => sum + Math.max(0, Math.min(endSeconds, at(end)) - Math.max(startSeconds, at(i))),
          0,
        );
        if (is[i]) {
          words++;
          touched += overlap > 0.01 ? 1 : 0;
        } else if (at(end) - at(i) > 0.6) {
          pauses++;
          lowered += overlap > 0.1 ? 1 : 0;
        }
        i = end;
      }
    }
    const under = `noise ${-20 - noiseDb} dB under`;
    return [
      { what: `pauses, ${under}: words that lose more than 10 ms (${words})`, value: (100 * touched) / words, limit: 1, unit: ' %' },
      ratio(`pauses over 0.6 s lowered, ${under}`, lowered, pauses),
    ];
  });
}

/** Recordings that have it and recordings with other faults. */
function whole(kind, faulty, others, is = () => true) {
  let right = 0,
    put = 0,
    wrong = 0;
  for (const talker of talkers) {
    const clean = spaced(talker);
    for (const make of faulty) {
      put++;
      const found = finding(make(clean), kind);
      if (found && is(found)) right++;
    }
    for (const make of others) {
      const found = finding(make(clean), kind);
      if (found && is(found)) wrong++;
    }
  }
  return [ratio(`${kind}: recall`, right, put), ratio(`${kind}: precision, told`, right, right + wrong)];
}

function bandwidthRows() {
  const off = talkers.flatMap((talker) => {
    const clean = spaced(talker);
    return [8000, 11025, 12000].map((lineHz) =>
      Math.abs((finding(narrowed(clean, lineHz), 'bandwidth')?.hz ?? 0) / ((0.95 * lineHz) / 2) - 1),
    );
  });
  return [
    ratio('bandwidth: recall, ends told within a tenth', off.filter((share) => share < 0.1).length, off.length),
    { what: 'bandwidth: off by, the worst', value: 100 * Math.max(...off), unit: ' %' },
  ];
}

export function rows() {
  const plain = (x) => x;
  const [quiet, loud] = [activity(-50), activity(-35)];
  return [
    ratio('speech activity, noise 30 dB under: frames of talk found', quiet.hit * quiet.talking, quiet.talking, 0.95),
    { what: 'speech activity, noise 30 dB under: frames of pauses taken for talk', value: 100 * quiet.wrong, limit: 5, unit: ' %' },
    ratio('speech activity, noise 15 dB under: frames of talk found', loud.hit * loud.talking, loud.talking, 0.9),
    { what: 'speech activity, noise 15 dB under: frames of pauses taken for talk', value: 100 * loud.wrong, limit: 5, unit: ' %' },
    ...breathRows(),
    ...passageRows(),
    ...pauseRows(),
    ...whole(
      'sibilance',
      [harsh],
      [plain, (x) => withNoise(x, -50, 6), (x) => withHum(x, RATE_HZ, 50, 6, -50), (x) => clipped(x, 0.5).heard, (x) => narrowed(x, 8000)],
    ),
    ...whole(
      'clipping',
      [softlyClipped],
      [plain, (x) => withNoise(x, -50, 6), (x) => withPlosives(x, RATE_HZ).heard, harsh],
      ({ shape }) => shape === 'soft',
    ).map((row) => ({ ...row, what: `soft ${row.what}` })),
    ...bandwidthRows(),
  ];
}
