import type { TreatmentSettings } from '../chain/chain-spec.js';
import type { SpanSeconds } from '../span-seconds.js';

/** A stretch with noise alone, and what speaks for it. Levels are of the whole band, RMS. */
export interface NoisePassage extends SpanSeconds {
  readonly dbfs: number;
  /** Nine in ten of its moments (43 ms) lie within this, dB. */
  readonly withinDb: number;
  /** Level of its last third against its first, dB. */
  readonly driftDb: number;
}

/** A breath: how sure that it is one (0 … 1), and its level above 150 Hz. */
export interface BreathSpan extends SpanSeconds {
  readonly certainty: number;
  readonly dbfs: number;
}

/** One line of a hum: its frequency and RMS level. */
export interface HumLine {
  readonly hz: number;
  readonly dbfs: number;
}

/** A third-octave band of the noise: nominal centre (IEC 61260-1) and RMS level. */
export interface ThirdOctave {
  readonly hz: number;
  readonly dbfs: number;
}

/** What can be found, each with its figures. Levels are RMS in dBFS unless said otherwise. */
export type FindingFacts =
  | { readonly kind: 'noise-floor'; readonly dbfs: number; readonly thirdOctaves: readonly ThirdOctave[] }
  | { readonly kind: 'speech-level'; readonly dbfs: number; readonly talkSeconds: number }
  | { readonly kind: 'speech-to-noise'; readonly db: number }
  | { readonly kind: 'rumble'; readonly belowHz: number; readonly dbfs: number; readonly lowestVoiceHz: number | null }
  | {
      readonly kind: 'hum';
      readonly baseHz: number;
      readonly harmonics: readonly HumLine[];
      readonly source: 'mains' | 'stray';
      readonly driftHz: number;
      readonly fewest: readonly number[];
    }
  | { readonly kind: 'hiss'; readonly aboveHz: number; readonly dbfs: number }
  | { readonly kind: 'dc-offset'; readonly fraction: number }
  | {
      readonly kind: 'clipping';
      readonly count: number;
      readonly spans: readonly SpanSeconds[];
      readonly levelDbfs: number;
      readonly shape: 'hard' | 'soft';
    }
  | { readonly kind: 'clicks'; readonly count: number; readonly perMinute: number; readonly atSeconds: readonly number[] }
  | { readonly kind: 'plosives'; readonly count: number; readonly atSeconds: readonly number[]; readonly spans: readonly SpanSeconds[] }
  | { readonly kind: 'breaths'; readonly count: number; readonly spans: readonly BreathSpan[] }
  | { readonly kind: 'sibilance'; readonly db: number; readonly spans: readonly SpanSeconds[] }
  | { readonly kind: 'room'; readonly decaySeconds: number }
  | { readonly kind: 'bandwidth'; readonly hz: number }
  | {
      readonly kind: 'channel';
      readonly problem: 'dead' | 'quieter' | 'identical' | 'opposite';
      /** Counted from 1. */
      readonly channel: number;
      readonly db: number;
    }
  | { readonly kind: 'dropouts'; readonly count: number; readonly spans: readonly SpanSeconds[] }
  | { readonly kind: 'gap-sounds'; readonly count: number; readonly spans: readonly SpanSeconds[] }
  /** Of who talks on channel `from` (counted from 1), so much is heard on this one, against their own. */
  | { readonly kind: 'bleed'; readonly db: number; readonly from: number }
  | { readonly kind: 'pauses'; readonly count: number; readonly spans: readonly SpanSeconds[] }
  /** Best first. */
  | { readonly kind: 'noise-passages'; readonly spans: readonly NoisePassage[] };

export type FindingKind = FindingFacts['kind'];

/** Something that the survey found: its figures, how sure it is (0 … 1), and what would mend it. */
export type Finding = FindingFacts & {
  /** Which channel has it, counted from 1; absent when all have it. */
  readonly channel?: number;
  readonly certainty: number;
  readonly suggestion: TreatmentSettings | null;
};

/** What a survey of today says; one of an earlier version is made anew. */
export const SURVEY_VERSION = 8;

/** The measured condition of a recording. Findings stand in the order in which they are mended. */
export interface Survey {
  readonly version: number;
  readonly findings: readonly Finding[];
  readonly seconds: number;
}

/** The order in which things are mended; facts that only inform come last. */
export const findingOrder: readonly FindingKind[] = [
  'channel',
  'dc-offset',
  'clipping',
  'dropouts',
  'clicks',
  'rumble',
  'hum',
  'plosives',
  'noise-floor',
  'speech-to-noise',
  'hiss',
  'noise-passages',
  'room',
  'gap-sounds',
  'bleed',
  'breaths',
  'sibilance',
  'speech-level',
  'pauses',
  'bandwidth',
];
