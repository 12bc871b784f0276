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
    pass: (value: number) => boolean,
    /** The verdict on a value that could not be measured. */
    missing = false,
  ): CheckLine => ({
    title, unit, before: before[key], after: after[key], asked,
    passed: asked === null ? null : after[key] === null ? missing : pass(shown(after[key])),
  });
  return [
    line(
      'Integrated loudness', 'LUFS', 'integratedLufs',
      integratedLufs === null ? null : `${integratedLufs} ±${toleranceLu} LUFS`,
      (value) => Math.abs(value - integratedLufs!) <= toleranceLu + 1e-9,
    ),
    line('Loudness range', 'LU', 'loudnessRangeLu', null, () => true),
    line('True peak', 'dBTP', 'truePeakDbtp', `at most ${ceilingDbtp} dBTP`, (value) => value <= ceilingDbtp + 1e-9, true),
    line(
      'Noise floor', 'dBFS', 'noiseFloorDbfs',
      noiseFloorDbfs === null ? null : `at most ${noiseFloorDbfs} dBFS`,
      (value) => value <= noiseFloorDbfs! + 1e-9,
      true,
    ),
  ];
}
