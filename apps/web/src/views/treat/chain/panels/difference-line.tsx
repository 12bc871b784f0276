import { compareProfiles, type NoiseProfile } from '@euphonos/dsp';
import { useMemo } from 'react';
import { formatNumber } from '../../../../components/figures.js';

const more = (db: number): string => `${formatNumber(Math.abs(db), 1)} dB ${db < 0 ? 'lower' : 'higher'}`;

/** The present noise against a kept one, in words. */
export function DifferenceLine({
  profile,
  other,
  name,
}: {
  readonly profile: NoiseProfile;
  readonly other: NoiseProfile;
  readonly name: string;
}) {
  const { levelDb, mostHz, mostDb } = useMemo(() => compareProfiles(profile, other), [profile, other]);
  const same = Math.abs(levelDb) < 1 && Math.abs(mostDb) < 3;
  return (
    <p className="m-0 text-[12px]" data-difference>
      {same
        ? `The same noise as “${name}”, within ${formatNumber(Math.max(Math.abs(levelDb), Math.abs(mostDb)), 1)} dB.`
        : `${more(levelDb)} than “${name}”; in colour it differs most at ${formatNumber(mostHz, 0)} Hz, ${more(mostDb)} there.`}
    </p>
  );
}
