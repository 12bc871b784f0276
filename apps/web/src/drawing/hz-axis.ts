/** A range of frequencies along a line, logarithmic. */
export interface HzAxis {
  readonly lowHz: number;
  readonly highHz: number;
}

/** Where a frequency stands, 0 to 1; what lies beyond stands at the end. */
export const shareOfHz = ({ lowHz, highHz }: HzAxis, hz: number): number =>
  Math.log(Math.max(lowHz, Math.min(highHz, hz)) / lowHz) / Math.log(highHz / lowHz);

/** The frequency that stands there. */
export const hzAtShare = ({ lowHz, highHz }: HzAxis, share: number): number => lowHz * (highHz / lowHz) ** Math.max(0, Math.min(1, share));
