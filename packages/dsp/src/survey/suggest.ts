import { parseChain, type TreatmentSettings } from '../chain/chain-spec.js';
import type { BreathSpan, FindingFacts } from './findings.js';

const settings = (treatment: Record<string, unknown>): TreatmentSettings => parseChain({ treatments: [treatment] }).treatments[0]!;
const within = (value: number, low: number, high: number, step: number): number =>
  Number((Math.round(Math.max(low, Math.min(high, value)) / step) * step).toFixed(3));

/** The treatment that mends a finding, with settings from its figures; null where nothing in a chain does. */
export function suggestionFor(fact: FindingFacts, all: readonly FindingFacts[]): TreatmentSettings | null {
  switch (fact.kind) {
    case 'dc-offset':
    case 'channel':
      return fact.kind === 'channel' && fact.problem === 'identical' ? null : channelsSuggestion(all);
    case 'clipping':
      // Peaks are rebuilt by about 3 dB for light and 9 dB for heavy clipping; room is made only where they would clip again.
      return settings({
        kind: 'clipping',
        lowerDb: within(fact.levelDbfs + 6, 0, 9, 0.5),
        ...(fact.shape === 'soft' ? { find: 'by-hand', levelDbfs: within(fact.levelDbfs, -40, 0, 0.1) } : {}),
      });
    case 'clicks':
      return settings({ kind: 'clicks' });
    case 'rumble': {
      // As high as the voice allows: a few hertz under its lowest note, 60 to 120 Hz.
      const cutoffHz = within((fact.lowestVoiceHz ?? 90) * 0.88, 60, 120, 1);
      return settings({ kind: 'high-pass', cutoffHz, slopeDbPerOctave: fact.dbfs > -45 ? 36 : 24 });
    }
    case 'hum':
      return humSuggestion(fact);
    case 'breaths':
      return settings({ kind: 'breaths', breaths: fact.spans.map(breathRow) });
    case 'plosives':
      return settings({ kind: 'plosives' });
    case 'room':
      return settings({ kind: 'room', decaySeconds: within(fact.decaySeconds, 0.2, 3, 0.05) });
    case 'sibilance':
      return settings({ kind: 'sibilance', reductionDb: within(fact.db + 10, 4, 10, 0.5) });
    case 'noise-floor': {
      // Enough to reach -60 dBFS, within what is usual.
      if (fact.dbfs < -66 || !all.some(({ kind }) => kind === 'noise-passages')) return null;
      return settings({ kind: 'noise-reduction', reductionDb: within(fact.dbfs + 64, 6, 15, 0.5) });
    }
    default:
      return null;
  }
}

const milliseconds = (seconds: number): number => Math.round(seconds * 1000) / 1000;

/** A breath of the survey as a row of the treatment. */
export const breathRow = ({
  startSeconds,
  endSeconds,
  certainty,
}: BreathSpan): { startSeconds: number; endSeconds: number; certaintyPercent: number } => ({
  startSeconds: milliseconds(startSeconds),
  endSeconds: milliseconds(endSeconds),
  certaintyPercent: Math.round(100 * certainty),
});

/** One treatment mends all that is wrong with the channels; it always takes out the offset. */
function channelsSuggestion(all: readonly FindingFacts[]): TreatmentSettings {
  const problem = all.find((fact) => fact.kind === 'channel');
  if (problem?.problem === 'opposite') return settings({ kind: 'channels', polarity: 'second' });
  if (problem?.problem === 'dead' || problem?.problem === 'quieter')
    return settings({ kind: 'channels', route: problem.channel === 1 ? 'second' : 'first' });
  return settings({ kind: 'channels' });
}

/** Several lines: subtracting them costs the voice least. One tone above the voice: a notch. */
function humSuggestion({ baseHz, fewest, source, driftHz }: Extract<FindingFacts, { kind: 'hum' }>): TreatmentSettings | null {
  if (baseHz > 1000)
    return settings({
      kind: 'tone',
      bands: [{ shape: 'notch', frequencyHz: Math.min(20000, baseHz), q: within(baseHz / 20, 5, 40, 0.1) }],
    });
  const base = within(baseHz, 20, 1000, 0.1);
  if (source === 'stray') return settings({ kind: 'hum-notch', baseHz: base, harmonics: 1, harmonicsOn: [1] });
  const on = fewest.filter((harmonic) => harmonic <= 40);
  return settings({
    kind: 'hum-lines',
    baseHz: base,
    harmonics: Math.max(1, ...on),
    harmonicsOn: on,
    drift: driftHz > 0.1 ? 'follow' : 'still',
  });
}
