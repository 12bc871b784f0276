import type { FindingFacts } from '../survey/findings.js';

/** A gate opens so much above where it closes: four or five decibels are common practice, no source. */
export const GATE_HYSTERESIS_DB = 4.5;

/** What three short listens say of a microphone, a room and a voice. Levels are RMS in dBFS unless said otherwise. */
export interface SoundCheckFigures {
  readonly floorDbfs: number;
  /** How far the loudest moment of the silence rises above its quiet quarter, and its last third against its first. */
  readonly riseDb: number;
  readonly driftDb: number;
  readonly hum: Extract<FindingFacts, { kind: 'hum' }> | null;
  readonly rumbleDbfs: number | null;
  readonly hissDbfs: number | null;
  /** Loudest moments (6 ms) of the usual noise; null when it was passed over. */
  readonly usualDbfs: number | null;
  readonly speechDbfs: number;
  readonly speechLufs: number;
  readonly peakDbtp: number;
  /** Flat tops. */
  readonly clipped: number;
  readonly speechToNoiseDb: number;
  readonly plosives: number;
  /** Of the s against the body of the voice, where it is told. */
  readonly sibilanceDb: number | null;
  /** How loud the room is after words, against them; null where words do not end often enough. */
  readonly roomShareDb: number | null;
  readonly talkSeconds: number;
  readonly lowestVoiceHz: number | null;
}
