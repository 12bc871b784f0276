import type { Finding, NoisePassage, SpanSeconds } from '@euphonos/dsp';
import { formatDb, formatNumber } from './figures.js';

/** A number on a small ruler: its range and the stretch that nobody minds. */
export interface Gauge {
  readonly min: number;
  readonly max: number;
  readonly fine: readonly [number, number];
  readonly value: number;
}

/** A finding as an experienced colleague would tell it. */
export interface InWords {
  readonly title: string;
  readonly figure: string;
  readonly sentence: string;
  readonly gauge?: Gauge;
  readonly spans: readonly SpanSeconds[];
}

const plural = (count: number, one: string, many = `${one}s`): string => `${count} ${count === 1 ? one : many}`;
const around = (seconds: readonly number[]): SpanSeconds[] => seconds.map((at) => ({ startSeconds: at, endSeconds: at + 0.005 }));
const hz = (value: number): string => `${formatNumber(value, value < 1000 && value % 1 !== 0 ? 1 : 0)} Hz`;
const side = (channel: number): string => (channel === 1 ? 'left' : 'right');

/** Which channel has it, of so many. */
export const channelInWords = (channel: number, channels: number): string =>
  channels === 2 ? `${side(channel)} only` : `channel ${channel} only`;

/** Title, figure and sentence of a finding, and where it is. */
export function inWords(finding: Finding): InWords {
  switch (finding.kind) {
    case 'noise-floor':
      return {
        title: 'Noise floor',
        figure: formatDb(finding.dbfs, 'dBFS'),
        spans: [],
        sentence:
          finding.dbfs > -60
            ? 'Steady noise between the words. Long-form narration asks for −60 dBFS or less.'
            : 'Quiet between the words: it passes for narration as it is.',
        gauge: { min: -90, max: -20, fine: [-90, -60], value: finding.dbfs },
      };
    case 'speech-level':
      return {
        title: 'Speech level',
        figure: formatDb(finding.dbfs, 'dBFS'),
        spans: [],
        sentence: `${formatNumber(finding.talkSeconds, 0)} s of talk; RMS of the moments in which somebody speaks.`,
        gauge: { min: -60, max: 0, fine: [-26, -16], value: finding.dbfs },
      };
    case 'speech-to-noise':
      return {
        title: 'Speech to noise',
        figure: formatDb(finding.db, 'dB'),
        spans: [],
        sentence:
          finding.db < 20
            ? 'The words hardly stand out: reduction will cost some of the voice.'
            : finding.db < 35
              ? 'Noise is heard between the words; moderate reduction will do.'
              : 'The words stand well clear of the noise.',
        gauge: { min: 0, max: 70, fine: [35, 70], value: finding.db },
      };
    case 'rumble':
      return {
        title: 'Rumble',
        figure: formatDb(finding.dbfs, 'dBFS'),
        spans: [],
        sentence: `Energy below the voice${finding.lowestVoiceHz ? `, whose lowest note is ${hz(finding.lowestVoiceHz)}` : ''}. Nothing of it is speech.`,
        gauge: { min: -80, max: -20, fine: [-80, -57], value: finding.dbfs },
      };
    case 'hum': {
      const most = Math.max(...finding.harmonics.map(({ dbfs }) => dbfs));
      const lines = finding.harmonics.length;
      return {
        title: finding.source === 'mains' ? 'Hum' : 'Stray tone',
        figure: hz(finding.baseHz),
        spans: [],
        sentence: `${finding.source === 'mains' ? 'Mains' : 'Not from the mains'}, ${plural(lines, 'line')}, the strongest at ${formatDb(most, 'dBFS')}; ${finding.driftHz > 0.15 ? `drifts by ${formatNumber(finding.driftHz, 1)} Hz` : 'steady'}.${lines > 1 ? ` It takes ${plural(finding.fewest.length, 'line')} to bring it under the floor.` : ''}`,
        gauge: { min: -100, max: -20, fine: [-100, -80], value: most },
      };
    }
    case 'hiss':
      return {
        title: 'Hiss',
        figure: formatDb(finding.dbfs, 'dBFS'),
        spans: [],
        sentence: `The part of the noise above ${finding.aboveHz / 1000} kHz, where it is heard most.`,
        gauge: { min: -100, max: -30, fine: [-100, -72], value: finding.dbfs },
      };
    case 'dc-offset':
      return {
        title: 'DC offset',
        figure: `${formatNumber(finding.fraction * 100, 2)} %`,
        spans: [],
        sentence: 'The wave does not stand on zero: it eats headroom and clicks at edits.',
        gauge: { min: 0, max: 10, fine: [0, 0.15], value: Math.abs(finding.fraction) * 100 },
      };
    case 'clipping':
      return {
        title: finding.shape === 'soft' ? 'Squeezed peaks' : 'Clipping',
        figure: plural(finding.count, 'peak'),
        spans: finding.spans,
        sentence:
          finding.shape === 'soft'
            ? `Peaks press against ${formatDb(finding.levelDbfs, 'dBFS')} without being flat: soft clipping or a hard limiter.`
            : `Flat tops at ${formatDb(finding.levelDbfs, 'dBFS')}${finding.levelDbfs < -1 ? ', lowered afterwards' : ''}. The peaks can be rebuilt.`,
      };
    case 'clicks':
      return {
        title: 'Clicks',
        figure: `${formatNumber(finding.perMinute, 0)} a minute`,
        spans: around(finding.atSeconds),
        sentence: `${plural(finding.count, 'short tick')} that stand out of what is around them.`,
      };
    case 'plosives':
      return {
        title: 'Plosives',
        figure: plural(finding.count, 'burst'),
        spans: finding.spans,
        sentence: 'Bursts of air into the microphone, below the voice.',
      };
    case 'breaths':
      return {
        title: 'Breaths',
        figure: plural(finding.count, 'breath'),
        spans: finding.spans,
        sentence: 'Audible before phrases. Lower them if compression will lift them; never cut them all.',
      };
    case 'sibilance':
      return {
        title: 'Sibilance',
        figure: formatDb(finding.db, 'dB'),
        spans: finding.spans,
        sentence: 'The loudest s and sh against the body of the voice.',
        gauge: { min: -25, max: 10, fine: [-25, -6], value: finding.db },
      };
    case 'room':
      return {
        title: 'Room',
        figure: `${formatNumber(finding.decaySeconds, 2)} s`,
        spans: [],
        sentence: 'Estimated decay of the room behind the words. It can be made smaller, never dry.',
        gauge: { min: 0, max: 2, fine: [0, 0.4], value: finding.decaySeconds },
      };
    case 'bandwidth':
      return {
        title: 'Bandwidth',
        figure: `${formatNumber(finding.hz / 1000, 1)} kHz`,
        spans: [],
        sentence: 'Nothing of the voice lies above: a phone line, or a lossy codec. It cannot be brought back.',
        gauge: { min: 0, max: 24, fine: [15, 24], value: finding.hz / 1000 },
      };
    case 'channel':
      return {
        title: 'Channels',
        spans: [],
        figure: {
          dead: `${side(finding.channel)} dead`,
          quieter: `${side(finding.channel)} −${formatNumber(finding.db, 0)} dB`,
          identical: 'identical',
          opposite: 'opposite',
        }[finding.problem],
        sentence: {
          dead: `There is nothing on the ${side(finding.channel)} side.`,
          quieter: `The ${side(finding.channel)} side is much quieter than the other.`,
          identical: 'Both sides are the same: it is a mono recording.',
          opposite: 'The sides are of opposite polarity: in mono they cancel.',
        }[finding.problem],
      };
    case 'dropouts':
      return {
        title: 'Dropouts',
        figure: plural(finding.count, 'hole'),
        spans: finding.spans,
        sentence: 'The sound breaks off into digital silence and comes back at once.',
      };
    case 'bleed':
      return {
        title: 'Bleed',
        figure: formatDb(finding.db, 'dB'),
        spans: [],
        sentence: `Who talks on channel ${finding.from} is heard here too, so much below their own microphone. From about −15 dB on it colours the sum of both.`,
        gauge: { min: -60, max: 0, fine: [-60, -25], value: finding.db },
      };
    case 'gap-sounds':
      return {
        title: 'Sounds in the gaps',
        figure: plural(finding.count, 'sound'),
        spans: finding.spans,
        sentence: 'Coughs, chairs, other people: no words, but not steady either. Select them on the spectrogram and lower them as spots.',
      };
    case 'pauses': {
      const lengths = finding.spans.map(({ startSeconds, endSeconds }) => endSeconds - startSeconds);
      return {
        title: 'Pauses',
        figure: plural(finding.count, 'pause'),
        spans: finding.spans,
        sentence: `${formatNumber(
          lengths.reduce((sum, s) => sum + s, 0),
          0,
        )} s in which nobody talks, the longest ${formatNumber(Math.max(...lengths), 1)} s.`,
      };
    }
    case 'noise-passages':
      return {
        title: 'Noise passages',
        figure: plural(finding.spans.length, 'stretch', 'stretches'),
        spans: finding.spans,
        sentence: `Nothing but noise for half a second and more, best first: ${passageInWords(finding.spans[0]!)}.`,
      };
  }
}

/** What speaks for a noise passage, in figures. */
export const passageInWords = ({ startSeconds, endSeconds, dbfs, withinDb, driftDb }: NoisePassage): string =>
  `${formatNumber(endSeconds - startSeconds, 2)} s at ${formatDb(dbfs, 'dBFS')}, steady within ${formatNumber(withinDb, 1)} dB${Math.abs(driftDb) >= 1 ? `, drifting ${formatNumber(driftDb, 1)} dB` : ''}`;

/** How sure a finding is, in a word. */
export const certaintyWord = (certainty: number): string => (certainty >= 0.85 ? 'sure' : certainty >= 0.65 ? 'likely' : 'maybe');
