import type { SoundFigures } from '@euphonos/dsp';
import type { DeliveryTarget } from './targets.js';

/** What was done to reach the target. */
export interface LevelWork {
  /** Fixed gain, dB. */
  readonly gainDb: number;
  /** Largest reduction by the limiter, dB; 0 when it was not needed. */
  readonly limitedDb: number;
  /** For how long it lowered the sound by 0.1 dB or more. */
  readonly limitedSeconds: number;
}

export interface CheckLine {
  readonly title: string;
  readonly unit: string;
  readonly before: number | null;
  readonly after: number | null;
  /** The requirement in words; null when nothing is asked. */
  readonly asked: string | null;
  /** null when nothing is asked. */
  readonly passed: boolean | null;
  /** How far a failed line is beyond what is asked; null when it passed, or could not be measured. */
  readonly missedBy: number | null;
}

/** Rounded as it is shown, so that a figure shown as the limit never fails. */
const shown = (value: number): number => Math.round(value * 10) / 10;

/** The check sheet of a delivery: measured of the untouched recording and of the file that is handed over. */
export function checkSheet(before: SoundFigures, after: SoundFigures, target: DeliveryTarget): CheckLine[] {
  const { integratedLufs, toleranceLu, ceilingDbtp, noiseFloorDbfs } = target;
  const line = (
    title: string,
    unit: string,
    key: 'integratedLufs' | 'loudnessRangeLu' | 'truePeakDbtp' | 'noiseFloorDbfs',
    asked: string | null,
    /** How far a value is beyond what is asked; 0 or less is a pass. */
    excess: (value: number) => number,
    /** The verdict on a value that could not be measured. */
    missing = false,
  ): CheckLine => {
    const value = after[key];
    const beyond = asked === null || value === null ? null : excess(shown(value));
    const passed = asked === null ? null : beyond === null ? missing : beyond <= 1e-9;
    return {
      title,
      unit,
      before: before[key],
      after: value,
      asked,
      passed,
      missedBy: beyond !== null && beyond > 1e-9 ? shown(beyond) : null,
    };
  };
  return [
    line(
      'Integrated loudness',
      'LUFS',
      'integratedLufs',
      integratedLufs === null ? null : `${integratedLufs} ±${toleranceLu} LUFS`,
      (value) => Math.abs(value - integratedLufs!) - toleranceLu,
    ),
    line('Loudness range', 'LU', 'loudnessRangeLu', null, () => 0),
    line('True peak', 'dBTP', 'truePeakDbtp', `at most ${ceilingDbtp} dBTP`, (value) => value - ceilingDbtp, true),
    line(
      'Noise floor',
      'dBFS',
      'noiseFloorDbfs',
      noiseFloorDbfs === null ? null : `at most ${noiseFloorDbfs} dBFS`,
      (value) => value - noiseFloorDbfs!,
      true,
    ),
  ];
}
