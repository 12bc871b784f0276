import type { Section } from '../filters/sections.js';

/**
 * K-weighting for any sample rate: the analogue prototypes behind the coefficients that ITU-R BS.1770-5
 * (annex 1, tables 1 and 2) gives for 48 kHz, through the bilinear transform; at 48 kHz these are the tables.
 */
export function kWeighting(sampleRateHz: number): readonly [Section, Section] {
  const shelf = Math.tan((Math.PI * 1681.974450955533) / sampleRateHz);
  const shelfQ = 0.7071752369554196;
  const high = 10 ** (3.999843853973347 / 20);
  const band = high ** 0.4996667741545416;
  const a0 = 1 + shelf / shelfQ + shelf * shelf;
  const preFilter: Section = [
    (high + (band * shelf) / shelfQ + shelf * shelf) / a0,
    (2 * (shelf * shelf - high)) / a0,
    (high - (band * shelf) / shelfQ + shelf * shelf) / a0,
    (2 * (shelf * shelf - 1)) / a0,
    (1 - shelf / shelfQ + shelf * shelf) / a0,
  ];
  const low = Math.tan((Math.PI * 38.13547087602444) / sampleRateHz);
  const lowQ = 0.5003270373238773;
  const c0 = 1 + low / lowQ + low * low;
  return [preFilter, [1, -2, 1, (2 * (low * low - 1)) / c0, (1 - low / lowQ + low * low) / c0]];
}
