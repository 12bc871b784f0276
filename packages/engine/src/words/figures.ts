import type { ParameterUnit } from '@euphonos/dsp';

/** A typographic minus, and no digits that mean nothing. */
export function formatNumber(value: number, digits: number): string {
  return value
    .toFixed(digits)
    .replace(/^-/, '−')
    .replace(/^−(0(\.0+)?)$/, '$1');
}

export const formatDb = (value: number | null | undefined, unit: string, digits = 1): string =>
  value === null || value === undefined || !Number.isFinite(value) ? `– ${unit}` : `${formatNumber(value, digits)} ${unit}`;

/** Digits that a step asks for. */
export const digitsOf = (step: number): number => (Number.isInteger(step) ? 0 : Math.min(3, String(step).split('.')[1]?.length ?? 0));

/** Digits of a measured figure by its unit: levels to a tenth, times to a millisecond, whole numbers as they are. */
export const unitDigits = (unit: string): number => (unit === 's' ? 3 : ['Hz', 'bits', 'kbit/s', ''].includes(unit) ? 0 : 1);

export const unitText = (unit: ParameterUnit): string => (unit === 'count' || unit === 'Q' ? '' : ` ${unit}`);

/** m:ss.mmm or h:mm:ss.mmm; `digits` of the seconds' fraction. */
export function formatTime(seconds: number, digits = 3): string {
  const whole = Math.floor(Math.max(0, seconds) * 10 ** digits + 1e-6) / 10 ** digits;
  const hours = Math.floor(whole / 3600);
  const minutes = Math.floor(whole / 60) % 60;
  const rest = (whole % 60).toFixed(digits).padStart(digits > 0 ? 3 + digits : 2, '0');
  return hours > 0 ? `${hours}:${String(minutes).padStart(2, '0')}:${rest}` : `${minutes}:${rest}`;
}

export function formatBytes(bytes: number): string {
  if (bytes < 1000) return `${bytes} bytes`;
  const [value, unit] = bytes < 1e6 ? [bytes / 1e3, 'KB'] : bytes < 1e9 ? [bytes / 1e6, 'MB'] : [bytes / 1e9, 'GB'];
  return `${value.toFixed(value < 10 ? 1 : 0)} ${unit}`;
}

export const formatRate = (hz: number): string => `${Number((hz / 1000).toFixed(2))} kHz`;
export const channelWord = (channels: number): string => (channels === 1 ? 'mono' : channels === 2 ? 'stereo' : `${channels} channels`);

/** Text with the minus of its numbers set as such. */
export const setMinus = (text: string): string => text.replace(/(^|[^\w])-(?=\d)/g, '$1−');
