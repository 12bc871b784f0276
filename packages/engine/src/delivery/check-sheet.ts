import type { SoundFigures } from '@euphonos/dsp';
import { edgeSeconds, edgeWords, NO_EDGES, type Edge, type Edges } from './edges.js';
import { bitsOf, isLossy, rateOf, type FileSpec } from './file-spec.js';
import { FLOOR_BESIDE_BED } from './foresee.js';
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

/** What would mend a line that failed. */
export type Mend = 'levelling' | 'limiter' | 'noise-reduction' | 'gate' | 'target';

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
  /** For a miss: what would mend it, and in words. Sheets of before it was told have none. */
  readonly mend?: { readonly by: Mend; readonly words: string };
}

/** What a finished file says of itself. */
export interface FileFacts {
  readonly sampleRateHz: number;
  readonly channels: number;
  /** null of formats without a depth. */
  readonly bits: number | null;
  readonly kbps: number | null;
  /** Level of what stands before and behind the sound, dBFS; null where that is silence or nothing. Told of before it was measured. */
  readonly edgesDbfs?: readonly [head: number | null, tail: number | null];
}

/** Rounded as it is shown, so that a figure shown as the limit never fails. */
const shown = (value: number): number => Math.round(value * 10) / 10;

type Key = 'integratedLufs' | 'rmsDbfs' | 'loudnessRangeLu' | 'truePeakDbtp' | 'samplePeakDbfs' | 'noiseFloorDbfs';
interface Rule {
  readonly title: string;
  readonly unit: string;
  readonly key: Key;
  readonly asked: string | null;
  /** How far a value is beyond what is asked; 0 or less is a pass. */
  readonly excess: (value: number) => number;
  /** The verdict on a value that could not be measured. */
  readonly missing: boolean;
  readonly mend: (value: number) => { readonly by: Mend; readonly words: string };
}

function rulesOf(target: DeliveryTarget, work: LevelWork, bed: boolean): Rule[] {
  const { integratedLufs, toleranceLu, rmsDbfs, ceilingDbtp, samplePeakDbfs, rangeLu, noiseFloorDbfs } = target;
  const most = (title: string, unit: string, key: Key, limit: number | null, mend: Rule['mend'], missing = true): Rule => ({
    title,
    unit,
    key,
    asked: limit === null ? null : `at most ${limit} ${unit}`,
    excess: (value) => value - limit!,
    missing,
    mend,
  });
  const limited = work.limitedDb > 0.05;
  const level = (): ReturnType<Rule['mend']> =>
    limited
      ? {
          by: 'levelling',
          words: 'Its peaks leave no room for that loudness: bring words together first, then the limiter has less to do.',
        }
      : { by: 'target', words: 'The level could not be reached by a gain alone.' };
  return [
    {
      title: 'Integrated loudness',
      unit: 'LUFS',
      key: 'integratedLufs',
      asked: integratedLufs === null ? null : `${integratedLufs} ±${toleranceLu} LUFS`,
      excess: (value) => Math.abs(value - integratedLufs!) - toleranceLu,
      missing: false,
      mend: level,
    },
    ...(rmsDbfs
      ? [
          {
            title: 'RMS level',
            unit: 'dBFS',
            key: 'rmsDbfs' as const,
            asked: `${rmsDbfs[0]} … ${rmsDbfs[1]} dBFS`,
            excess: (value: number) => Math.max(rmsDbfs[0] - value, value - rmsDbfs[1]),
            missing: false,
            mend: level,
          },
        ]
      : []),
    most('Loudness range', 'LU', 'loudnessRangeLu', rangeLu, () => ({
      by: 'levelling',
      words: 'Levelling brings phrases and people together.',
    })),
    most('True peak', 'dBTP', 'truePeakDbtp', ceilingDbtp, () => ({
      by: 'limiter',
      words: 'Coding with loss moves peaks: a limiter a decibel lower leaves it room.',
    })),
    ...(samplePeakDbfs === null
      ? []
      : [most('Sample peak', 'dBFS', 'samplePeakDbfs', samplePeakDbfs, () => ({ by: 'limiter' as const, words: 'A lower ceiling.' }))]),
    most('Noise floor', 'dBFS', 'noiseFloorDbfs', noiseFloorDbfs, (value) => ({
      by: bed ? 'target' : 'noise-reduction',
      words: bed
        ? FLOOR_BESIDE_BED
        : `${shown(value - noiseFloorDbfs!)} dB more noise reduction${work.gainDb > 0.5 ? `; the gain lifted it by ${shown(work.gainDb)} dB` : ''}.`,
    })),
  ];
}

/** What a sheet is told besides what was measured. */
export interface Made {
  readonly work: LevelWork;
  /** What the finished file says of itself, and how it was to be written (null: as its picture has it); left out, nothing is told of the file. */
  readonly file?: FileFacts & { readonly asked: FileSpec | null; readonly edges?: Edges };
  /** Music or an atmosphere sounds with it. */
  readonly bed?: boolean;
}

/** The check sheet of a delivery: measured of the untouched recording and of the file that is handed over, decoded again. */
export function checkSheet(
  before: SoundFigures,
  after: SoundFigures,
  target: DeliveryTarget,
  { work, file, bed = false }: Made,
): CheckLine[] {
  const lines = rulesOf(target, work, bed).map(({ title, unit, key, asked, excess, missing, mend }): CheckLine => {
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
      ...(passed === false && value !== null ? { mend: mend(value) } : {}),
    };
  });
  return file ? [...lines, ...fileLines(before, after, file)] : lines;
}

/** What the file itself is, against what was asked. */
function fileLines(
  before: SoundFigures,
  after: SoundFigures,
  { asked, edges = NO_EDGES, ...file }: NonNullable<Made['file']>,
): CheckLine[] {
  const line = (title: string, unit: string, was: number | null, is: number | null, wished: number | null): CheckLine => ({
    title,
    unit,
    before: was,
    after: is,
    asked: wished === null ? null : `${wished}${unit ? ` ${unit}` : ''}`,
    passed: wished === null ? null : is === wished,
    missedBy: null,
  });
  const bits = asked && bitsOf(asked);
  const extra = edgeSeconds(edges);
  return [
    line('Sample rate', 'Hz', before.sampleRateHz, file.sampleRateHz, asked && rateOf(asked, before.sampleRateHz)),
    ...(bits === null ? [] : [line('Bit depth', 'bits', null, file.bits, bits === '32f' ? 32 : bits)]),
    ...(asked && isLossy(asked) && file.kbps !== null ? [line('Bit rate', 'kbit/s', null, Math.round(file.kbps), null)] : []),
    line('Channels', '', before.channels, file.channels, asked && asked.channels),
    // What comes out is as long as what went in: to the sample in formats that can say it, else to what their steps of time hold.
    {
      title: 'Length',
      unit: 's',
      before: before.durationSeconds,
      after: after.durationSeconds,
      asked: extra === 0 ? 'as it was' : `${extra} s more`,
      passed: Math.abs(after.durationSeconds - before.durationSeconds - extra) < LENGTH_TOLERANCE_SECONDS,
      missedBy: null,
    },
    ...(['head', 'tail'] as const).flatMap((which, i) => {
      const edge = edges[which];
      return edge ? [edgeLine(which === 'head' ? 'Head' : 'Tail', edge, file.edgesDbfs?.[i] ?? null, after.noiseFloorDbfs)] : [];
    }),
  ];
}
/** Silence and room tone as they are in the finished file: coding with loss leaves next to nothing of the one, the other is no louder than the gaps. */
function edgeLine(title: string, edge: Edge, levelDbfs: number | null, floorDbfs: number | null): CheckLine {
  const silent = levelDbfs === null || levelDbfs < SILENT_DBFS;
  const passed = edge.fill === 'silence' ? silent : !silent && (floorDbfs === null || levelDbfs <= floorDbfs + ABOVE_FLOOR_DB);
  return {
    title,
    unit: 'dBFS',
    before: null,
    after: levelDbfs,
    asked: edgeWords(edge),
    passed,
    missedBy: null,
    ...(passed || edge.fill === 'silence'
      ? {}
      : {
          mend: silent
            ? {
                by: 'gate' as const,
                words: 'Between the words is nothing but silence, so there is no room to take: a gate that leaves some of it.',
              }
            : { by: 'noise-reduction' as const, words: 'Nowhere is it quiet for long enough to take the room alone.' },
        }),
  };
}
const SILENT_DBFS = -90;
const ABOVE_FLOOR_DB = 4;
/** Half a millisecond: rates that do not divide each other round the length to a sample of theirs. */
const LENGTH_TOLERANCE_SECONDS = 0.0005;
