import { parseChain, type ChainSpec, type TreatmentSettings } from '../chain/chain-spec.js';
import { suggestionFor } from '../survey/suggest.js';
import type { SoundCheckFigures } from './figures.js';
import type { Thresholds } from './thresholds.js';
import { LOOK_AHEAD_MS } from './thresholds.js';

const settings = (treatment: Record<string, unknown>): TreatmentSettings => parseChain({ treatments: [treatment] }).treatments[0]!;
const within = (value: number, low: number, high: number, step: number): number =>
  Number((Math.round(Math.max(low, Math.min(high, value)) / step) * step).toFixed(2));

/** Words come out about as loud as this, RMS: the compressor and the limiter bring them there. Common practice, no source. */
const WORDS_DBFS = -20;
/** A floor of so much is quiet enough; more is lowered towards it, within what is usual. */
const QUIET_FLOOR_DBFS = -68;
const LIVE_REDUCTION_DB = { min: 4, max: 12 } as const;
/** A burst or a harsh s in so many seconds of talk. */
const PLOSIVES_A_MINUTE = 4;

/** What stands before the gate: the bottom, the hum, bursts and the steady noise. */
export function chainBeforeGate(figures: SoundCheckFigures): ChainSpec {
  const { floorDbfs, hum, plosives, talkSeconds, lowestVoiceHz, rumbleDbfs } = figures;
  const notches = hum && suggestionFor(hum, [hum]);
  const burstsAMinute = talkSeconds > 0 ? (60 * plosives) / talkSeconds : 0;
  const reductionDb = within(floorDbfs - QUIET_FLOOR_DBFS, LIVE_REDUCTION_DB.min, LIVE_REDUCTION_DB.max, 0.5);
  return {
    treatments: [
      ...(burstsAMinute >= PLOSIVES_A_MINUTE ? [settings({ kind: 'plosives' })] : []),
      settings({
        kind: 'high-pass',
        cutoffHz: within((lowestVoiceHz ?? 90) * 0.88, 60, 120, 1),
        slopeDbPerOctave: rumbleDbfs !== null && rumbleDbfs > -45 ? 36 : 24,
      }),
      ...(notches ? [notches] : []),
      ...(floorDbfs > QUIET_FLOOR_DBFS ? [settings({ kind: 'noise-reduction', reductionDb })] : []),
    ],
  };
}

/** The whole chain: that, a gate where words stand clear, and what brings the voice to its level. */
export function wholeChain(before: ChainSpec, figures: SoundCheckFigures, thresholds: Thresholds): ChainSpec {
  const { speechDbfs, sibilanceDb } = figures;
  const makeUpDb = within(WORDS_DBFS - speechDbfs + MORE_DB, -12, 18, 0.5);
  const treatments = [
    ...before.treatments,
    ...(thresholds.shuts === 'none' ? [] : [gateSettings(thresholds)]),
    ...(sibilanceDb === null ? [] : [settings({ kind: 'sibilance' })]),
    settings({ kind: 'compressor', thresholdDb: within(speechDbfs + 2, -60, 0, 0.5), ratio: 2, attackMs: 6, releaseMs: 60, makeUpDb }),
    settings({ kind: 'limiter', ceilingDbtp: -1 }),
  ];
  return { treatments: treatments.map((one, i) => ({ ...one, id: `s${i + 1}` })) };
}

/** What 2:1 above the usual level takes of words, about. */
const MORE_DB = 2;

const gateSettings = ({ openDb, closeDb, listens }: Thresholds): TreatmentSettings =>
  settings({
    kind: 'gate',
    openDb: within(openDb, -90, 0, 0.5),
    closeDb: within(closeDb, -90, 0, 0.5),
    listens,
    rangeDb: 12,
    attackMs: 5,
    holdMs: 200,
    releaseMs: 150,
    lookAheadMs: LOOK_AHEAD_MS,
  });

/**
 * The chain for what is recorded: there a gate knows who talks (it listens to words), so it need not keep out the usual noise by level, and
 * softer beginnings open it. One whose thresholds were moved by hand keeps them.
 */
export function chainForTake({ treatments }: ChainSpec, thresholds: Thresholds): ChainSpec {
  const own = gateSettings(thresholds);
  const untouched = (gate: TreatmentSettings): boolean => gate['openDb'] === own['openDb'] && gate['closeDb'] === own['closeDb'];
  const { openDb, closeDb, awayDb } = thresholds.recorded;
  return {
    treatments: treatments.map((one) =>
      one.kind !== 'gate' || !untouched(one)
        ? one
        : {
            ...one,
            openDb: within(openDb, -90, 0, 0.5),
            closeDb: within(closeDb, -90, 0, 0.5),
            awayDb: within(awayDb, 0, 90, 0.5),
            listens: thresholds.listens === 'voice' ? 'talk' : 'words',
          },
    ),
  };
}
