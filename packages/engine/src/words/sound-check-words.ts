import type { SoundCheckFigures, TakeFigures, Thresholds } from '@euphonos/dsp';
import type { Gauge } from './finding-words.js';
import { formatDb, formatNumber } from './figures.js';

/** One line of what a sound check says: a figure on its ruler, and what to do about it in the room. */
export interface CheckAdvice {
  readonly title: string;
  readonly figure: string;
  readonly gauge?: Gauge;
  readonly verdict: 'good' | 'mend' | 'must';
  readonly sentence: string;
}

// What is usual: common practice, no source.
const USUAL = {
  floorDbfs: [-90, -60],
  speechDbfs: [-28, -18],
  peakDbtp: [-12, -4],
  speechToNoiseDb: [35, 70],
  roomShareDb: [-60, -27],
} as const;
/** So far under the softest beginning a gate has room to close and open. */
const FREE_DB = 9;
const STEADY_DB = 6;
const DRIFT_DB = 2;
const BURSTS_A_MINUTE = 4;

/** What three listens say, the worst first: what cannot be mended afterwards comes before what can. */
export function adviceOf(figures: SoundCheckFigures, thresholds: Thresholds): CheckAdvice[] {
  const lines = [levelLine(figures), peakLine(figures), noiseLine(figures), steadyLine(figures), roomLine(figures), ...humLine(figures)];
  const all = [...lines, ...burstLine(figures), ...sibilanceLine(figures), ...usualLine(figures, thresholds), gateLine(thresholds)];
  const rank = { must: 0, mend: 1, good: 2 };
  return all.flatMap((line) => line ?? []).sort((a, b) => rank[a.verdict] - rank[b.verdict]);
}

function levelLine({ speechDbfs }: SoundCheckFigures): CheckAdvice {
  const [low, high] = USUAL.speechDbfs;
  const gauge = { min: -60, max: 0, fine: USUAL.speechDbfs, value: speechDbfs };
  const line = { title: 'Words', figure: formatDb(speechDbfs, 'dBFS'), gauge };
  if (speechDbfs < low)
    return {
      ...line,
      verdict: speechDbfs < low - 12 ? 'must' : 'mend',
      sentence: `Quiet. Come closer first: half the distance brings 6 dB over the room. Then raise the gain by ${formatNumber(Math.ceil(low + 4 - speechDbfs), 0)} dB, together.`,
    };
  if (speechDbfs > high)
    return { ...line, verdict: 'mend', sentence: `Loud. Lower the gain by ${formatNumber(Math.ceil(speechDbfs - high + 2), 0)} dB.` };
  return { ...line, verdict: 'good', sentence: 'At a good level.' };
}

function peakLine({ peakDbtp, clipped }: SoundCheckFigures): CheckAdvice {
  const [low, high] = USUAL.peakDbtp;
  const line = { title: 'Peaks', figure: formatDb(peakDbtp, 'dBTP'), gauge: { min: -40, max: 3, fine: USUAL.peakDbtp, value: peakDbtp } };
  if (clipped > 0 || peakDbtp > -0.3)
    return {
      ...line,
      verdict: 'must',
      sentence: `${clipped > 0 ? 'Clipped' : 'At full scale'}: what is cut off cannot be had back. Lower the gain by ${formatNumber(Math.ceil(Math.max(6, peakDbtp + 9)), 0)} dB, or turn a little aside.`,
    };
  if (peakDbtp > high)
    return {
      ...line,
      verdict: 'mend',
      sentence: `Close to the top: a laugh will clip. Lower the gain by ${formatNumber(Math.ceil(peakDbtp - high + 2), 0)} dB.`,
    };
  return {
    ...line,
    verdict: 'good',
    sentence: peakDbtp < low - 8 ? 'Far from the top: nothing will clip.' : 'Room enough for a louder word.',
  };
}

function noiseLine({ speechToNoiseDb, floorDbfs, hissDbfs, rumbleDbfs }: SoundCheckFigures): CheckAdvice {
  const line = {
    title: 'Words over the silence',
    figure: formatDb(speechToNoiseDb, 'dB'),
    gauge: { min: 0, max: 70, fine: USUAL.speechToNoiseDb, value: speechToNoiseDb },
  };
  if (speechToNoiseDb >= USUAL.speechToNoiseDb[0])
    return { ...line, verdict: 'good', sentence: `The silence lies at ${formatDb(floorDbfs, 'dBFS')}: the words stand well clear of it.` };
  const source =
    rumbleDbfs !== null && rumbleDbfs > floorDbfs - 3
      ? 'Most of it is rumble: take the microphone off the desk, close the window.'
      : hissDbfs !== null && hissDbfs > floorDbfs - 6
        ? 'Most of it is hiss: more gain at the microphone and less behind it.'
        : 'Turn off the fan, close the door, move away from the machine.';
  return {
    ...line,
    verdict: speechToNoiseDb < 20 ? 'must' : 'mend',
    sentence: `The silence lies at ${formatDb(floorDbfs, 'dBFS')}. ${source} Coming closer helps as well.`,
  };
}

function steadyLine({ riseDb, driftDb }: SoundCheckFigures): CheckAdvice | null {
  if (riseDb <= STEADY_DB && Math.abs(driftDb) <= DRIFT_DB) return null;
  return {
    title: 'Silence, steady',
    figure: `within ${formatDb(riseDb, 'dB')}`,
    verdict: 'mend',
    sentence:
      riseDb > STEADY_DB
        ? 'It comes and goes: what is not steady cannot be profiled. Find what it is, and stop it.'
        : 'It changes while it is listened to: a fan that speeds up, a lorry that passes. Listen again.',
  };
}

function roomLine({ roomShareDb }: SoundCheckFigures): CheckAdvice | null {
  if (roomShareDb === null) return null;
  const line = {
    title: 'Room after words',
    figure: formatDb(roomShareDb, 'dB'),
    gauge: { min: -60, max: 0, fine: USUAL.roomShareDb, value: roomShareDb },
  };
  if (roomShareDb <= USUAL.roomShareDb[1])
    return { ...line, verdict: 'good', sentence: 'Close, or in a soft room: little of it is heard.' };
  return {
    ...line,
    verdict: roomShareDb > -18 ? 'must' : 'mend',
    sentence: 'Far from the microphone, or in a bare room: come closer, a hand and a half; hang something soft behind you.',
  };
}

function humLine({ hum }: SoundCheckFigures): CheckAdvice[] {
  if (!hum) return [];
  const most = Math.max(...hum.harmonics.map(({ dbfs }) => dbfs));
  return [
    {
      title: hum.source === 'mains' ? 'Hum' : 'Stray tone',
      figure: `${formatNumber(hum.baseHz, hum.baseHz < 1000 ? 1 : 0)} Hz`,
      gauge: { min: -100, max: -20, fine: [-100, -80], value: most },
      verdict: 'mend',
      sentence:
        hum.source === 'mains'
          ? 'Move the cable away from the mains, another socket, a balanced cable; it is notched until then.'
          : 'A charger, a lamp, a screen: unplug one after the other. It is notched until then.',
    },
  ];
}

function burstLine({ plosives, talkSeconds }: SoundCheckFigures): CheckAdvice[] {
  const aMinute = talkSeconds > 0 ? (60 * plosives) / talkSeconds : 0;
  if (aMinute < BURSTS_A_MINUTE) return [];
  return [
    {
      title: 'Bursts of p and b',
      figure: `${formatNumber(aMinute, 0)} a minute`,
      gauge: { min: 0, max: 40, fine: [0, BURSTS_A_MINUTE], value: Math.min(40, aMinute) },
      verdict: 'mend',
      sentence: 'Air hits the microphone: speak past it, at another angle, or put a screen before it.',
    },
  ];
}

function sibilanceLine({ sibilanceDb }: SoundCheckFigures): CheckAdvice[] {
  if (sibilanceDb === null) return [];
  return [
    {
      title: 'Sibilance',
      figure: formatDb(sibilanceDb, 'dB'),
      gauge: { min: -25, max: 10, fine: [-25, -6], value: sibilanceDb },
      verdict: 'mend',
      sentence: 'A sharp s against the body of the voice: turn the microphone a little aside, or below the mouth.',
    },
  ];
}

function usualLine({ usualDbfs, speechDbfs }: SoundCheckFigures, { shuts, usualDb, softestDb }: Thresholds): CheckAdvice[] {
  if (usualDbfs === null || usualDb === null) return [];
  const under = speechDbfs - usualDbfs;
  return [
    {
      title: 'Usual noise',
      figure: formatDb(usualDbfs, 'dBFS'),
      gauge: { min: -90, max: 0, fine: [-90, softestDb - FREE_DB], value: usualDbfs },
      verdict: shuts === 'all' ? 'good' : 'mend',
      sentence:
        shuts === 'all'
          ? `${formatNumber(under, 0)} dB under the words: a gate stays shut for it.`
          : 'As loud as soft beginnings of words: move the keyboard away, a cloth under it, the microphone’s back towards it.',
    },
  ];
}

function gateLine({ shuts, openDb, closeDb, softestDb, marginDb }: Thresholds): CheckAdvice {
  const figure = shuts === 'none' ? 'none' : `${formatNumber(closeDb, 1)} / ${formatNumber(openDb, 1)} dBFS`;
  if (shuts === 'all')
    return {
      title: 'Gate',
      figure,
      verdict: 'good',
      sentence: `Shut for silence and usual noise, open for the softest beginning (${formatDb(softestDb, 'dBFS')}), with ${formatDb(marginDb, 'dB')} to spare.`,
    };
  if (shuts === 'silence')
    return {
      title: 'Gate',
      figure,
      verdict: 'mend',
      sentence: `By level alone impossible: ${formatDb(-marginDb, 'dB')} are missing between the usual noise and the softest beginning (${formatDb(softestDb, 'dBFS')}). Live it opens for the noise too; in what is recorded it knows who talks, and stays shut for it.`,
    };
  return {
    title: 'Gate',
    figure,
    verdict: 'must',
    sentence: `Impossible: soft beginnings (${formatDb(softestDb, 'dBFS')}) hardly stand out of the silence. The room comes first.`,
  };
}

const DIFFERS = { levelDb: 2, floorDb: 3, toneDb: 2, roomDb: 4 } as const;

/** What is different of a take, in one line; null when it is as the last one. */
export function takeDifference(last: TakeFigures, now: TakeFigures): string | null {
  const parts: string[] = [];
  const level = now.speechDbfs - last.speechDbfs;
  const floor = now.floorDbfs - last.floorDbfs;
  const tone = now.brightDb - last.brightDb;
  const room = now.roomShareDb !== null && last.roomShareDb !== null ? now.roomShareDb - last.roomShareDb : 0;
  const by = (db: number): string => formatDb(Math.abs(db), 'dB');
  if (Math.abs(level) >= DIFFERS.levelDb) parts.push(`${by(level)} ${level > 0 ? 'louder' : 'quieter'}`);
  if (Math.abs(floor) >= DIFFERS.floorDb) parts.push(`the silence ${by(floor)} ${floor > 0 ? 'louder' : 'quieter'}`);
  if (Math.abs(tone) >= DIFFERS.toneDb) parts.push(`${tone > 0 ? 'brighter' : 'duller'} by ${by(tone)}`);
  if (Math.abs(room) >= DIFFERS.roomDb) parts.push(room > 0 ? 'further from the microphone' : 'closer to the microphone');
  if (now.humHz !== null && last.humHz === null) parts.push(`a hum at ${formatNumber(now.humHz, 0)} Hz that was not there`);
  if (now.humHz === null && last.humHz !== null) parts.push('the hum is gone');
  if (parts.length === 0) return null;
  const [first, ...rest] = parts as [string, ...string[]];
  return `${first[0]!.toUpperCase()}${first.slice(1)}${rest.length > 0 ? `, ${rest.join(', ')}` : ''}.`;
}
