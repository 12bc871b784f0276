import {
  chainDifferences,
  needsProfile,
  treatmentOf,
  type ChainSpec,
  type Finding,
  type SoundFigures,
  type TreatmentSettings,
} from '@euphonos/dsp';
import { clipFrames, type Clip } from '../document/clip.js';
import { noiseSpans, type SessionDocument, type Track, type Version } from '../document/document.js';
import { reelFrames } from '../document/reel.js';
import type { CheckLine, LevelWork } from '../delivery/check-sheet.js';
import { fileWords } from '../delivery/file-spec.js';
import type { DeliveryTarget } from '../delivery/targets.js';
import { inWords } from '../words/finding-words.js';
import { channelWord, digitsOf, formatDb, formatNumber, formatRate, formatTime, unitText } from '../words/figures.js';

/** A line of words and what it says. */
export interface Told {
  readonly title: string;
  readonly value: string;
  readonly sentence: string;
}

/** A recording as it came. */
export interface Received {
  readonly fileName: string;
  readonly words: string;
  readonly figures: readonly Told[];
  readonly notes: readonly string[];
  readonly found: readonly Told[];
  /** PNG as a data URL; null where there is none. */
  readonly picture: string | null;
}

export interface TreatmentTold {
  readonly title: string;
  readonly sentence: string;
  readonly settings: readonly Told[];
}

export interface Done {
  /** Whose it is. */
  readonly name: string;
  readonly edits: readonly string[];
  readonly treatments: readonly TreatmentTold[];
}

/** What was received, found, done and measured: everything in words, for whoever was not there. */
export interface Report {
  readonly format: 'euphonos-report';
  readonly version: 1;
  readonly title: string;
  /** ISO 8601. */
  readonly madeAt: string;
  readonly fileName: string;
  readonly received: readonly Received[];
  readonly done: readonly Done[];
  readonly level: readonly string[];
  readonly target: { readonly name: string; readonly file: string };
  readonly measured: readonly CheckLine[];
  readonly passed: boolean;
  readonly loudness: {
    readonly before: readonly number[];
    readonly after: readonly number[];
    readonly stepSeconds: number;
    readonly band: readonly [number, number] | null;
  } | null;
  readonly picture: string | null;
  readonly versions: readonly { readonly name: string; readonly keptAt: string; readonly differences: readonly string[] }[];
  /** What the terms that are used mean. */
  readonly terms: readonly { readonly term: string; readonly meaning: string }[];
}

/** What a recording is told from. */
export interface ReceivedFrom {
  readonly fileName: string;
  readonly codec: string;
  readonly fileSampleRateHz: number;
  readonly channels: number;
  readonly seconds: number;
  readonly figures: SoundFigures;
  readonly notes: readonly string[];
  readonly findings: readonly Finding[];
  readonly picture: string | null;
}

export const receivedOf = ({
  fileName,
  codec,
  fileSampleRateHz,
  channels,
  seconds,
  figures,
  notes,
  findings,
  picture,
}: ReceivedFrom): Received => ({
  fileName,
  words: `${formatTime(seconds, 1)}, ${formatRate(fileSampleRateHz)}, ${channelWord(channels)}, ${codec.replace(/^pcm_.*/, 'uncompressed')}`,
  figures: [
    { title: 'Loudness', value: formatDb(figures.integratedLufs, 'LUFS'), sentence: '' },
    { title: 'True peak', value: formatDb(figures.truePeakDbtp, 'dBTP'), sentence: '' },
    { title: 'Noise floor', value: formatDb(figures.noiseFloorDbfs, 'dBFS'), sentence: '' },
  ],
  notes,
  found: findings
    .filter(({ suggestion, kind }) => suggestion || kind === 'noise-floor' || kind === 'speech-to-noise')
    .map((finding) => {
      const { title, figure, sentence } = inWords(finding);
      return { title, value: figure, sentence };
    }),
  picture,
});

/** A treatment with every setting that counts, in words. */
function treatmentTold(settings: TreatmentSettings): TreatmentTold {
  const { title, sentence, parameters, choices = {}, lists = {}, idleSettings } = treatmentOf(settings.kind);
  const idle = new Set(idleSettings?.(settings as never) ?? []);
  const value = (name: string): unknown => settings[name];
  return {
    title,
    sentence,
    settings: [
      ...Object.entries(choices).flatMap(([name, { title: what, options }]): Told[] => {
        const option = options.find((one) => one.value === value(name));
        return idle.has(name) || !option ? [] : [{ title: what, value: option.title, sentence: option.sentence }];
      }),
      ...Object.entries(parameters).flatMap(([name, spec]): Told[] =>
        idle.has(name)
          ? []
          : [
              {
                title: spec.title,
                value: `${formatNumber(Number(value(name)), digitsOf(spec.step))}${unitText(spec.unit)}`,
                sentence: spec.sentence,
              },
            ],
      ),
      ...Object.entries(lists).flatMap(([name, { title: what, sentence: why }]): Told[] => {
        const rows = value(name) as readonly unknown[];
        return idle.has(name) || rows.length === 0
          ? []
          : [{ title: what, value: typeof rows[0] === 'number' ? rows.join(', ') : String(rows.length), sentence: why }];
      }),
    ],
  };
}

/** Treatments that sound; one that weighs by a noise which nobody has shown it does nothing. */
const sounds = (settings: TreatmentSettings, noise: boolean): boolean => !settings.bypassed && (noise || !needsProfile(settings));
const treatmentsOf = (chain: ChainSpec, noise: boolean): TreatmentTold[] =>
  chain.treatments.filter((settings) => sounds(settings, noise)).map(treatmentTold);
const waiting = ({ treatments }: ChainSpec, noise: boolean): string[] =>
  treatments
    .filter((settings) => !settings.bypassed && !sounds(settings, noise))
    .map(({ kind }) => `${treatmentOf(kind).title} was shown no noise alone, and did nothing.`);

const count = (many: number, one: string, more: string): string[] =>
  many === 0 ? [] : [many === 1 ? one : more.replace('#', String(many))];

/** What was done to the clips of a track, in words. */
function editsOf(track: Track, sampleRateHz: number): string[] {
  const { clips, reel } = track;
  const seconds = (frames: number): string => formatTime(frames / sampleRateHz, 1);
  const recorded = reel.reduce((sum, { frames }) => sum + frames, 0);
  const kept = clips.reduce((sum, clip) => sum + clipFrames(clip), 0);
  const having = (wanted: (clip: Clip) => boolean): Clip[] => clips.filter(wanted);
  const tone = having(({ sound }) => sound.kind === 'room-tone');
  const silent = having(({ sound }) => sound.kind === 'silence');
  return [
    ...(kept < recorded ? [`${seconds(recorded - kept)} of ${seconds(recorded)} were cut away; ${clips.length} pieces remain.`] : []),
    ...count(tone.length, 'Room tone stands in the place of one stretch.', 'Room tone stands in the place of # stretches.'),
    ...count(silent.length, 'One stretch was silenced.', '# stretches were silenced.'),
    ...count(
      having(({ gainDb, line }) => gainDb !== 0 || line.length > 0).length,
      'One piece has a level of its own.',
      '# pieces have levels of their own.',
    ),
    ...count(
      having((clip) => clip.chain !== null).length,
      'One piece has treatments of its own.',
      '# pieces have treatments of their own.',
    ),
    ...count(
      noiseSpans(track).length,
      'The noise is known from one passage without speech.',
      'The noise is known from # passages without speech.',
    ),
    ...(track.noise?.kind === 'kept' ? [`The noise is known from the kept profile "${track.noise.name}".`] : []),
    ...(track.gainDb !== 0 ? [`${formatNumber(track.gainDb, 1)} dB in the mix.`] : []),
    ...(reelFrames(reel) > 0 && track.muted ? ['It is not in the mix.'] : []),
  ];
}

const doneOf = ({ tracks, chain, wholeNoise, sampleRateHz }: SessionDocument): Done[] => [
  ...tracks.map((track) => ({
    name: track.name,
    edits: [...editsOf(track, sampleRateHz), ...waiting(track.chain, track.noise !== null)],
    treatments: treatmentsOf(track.chain, track.noise !== null),
  })),
  ...(chain.treatments.some(({ bypassed }) => !bypassed)
    ? [{ name: 'All together', edits: waiting(chain, wholeNoise.length > 0), treatments: treatmentsOf(chain, wholeNoise.length > 0) }]
    : []),
];

function levelWords({ gainDb, limitedDb, limitedSeconds }: LevelWork): string[] {
  return [
    Math.abs(gainDb) < 0.05
      ? 'The level was left as it was.'
      : `The whole was brought ${gainDb > 0 ? 'up' : 'down'} by ${formatNumber(Math.abs(gainDb), 1)} dB.`,
    limitedDb < 0.05
      ? 'No peak had to be held.'
      : `Peaks were held by up to ${formatNumber(limitedDb, 1)} dB, for ${formatNumber(limitedSeconds, 1)} s in all.`,
  ];
}

const versionOf = (version: Version, document: SessionDocument): Report['versions'][number] => ({
  name: version.name,
  keptAt: version.keptAt,
  differences: document.tracks.flatMap((track) => {
    const before = version.tracks.find(({ id }) => id === track.id);
    return before
      ? chainDifferences(track.chain, before.chain).map(
          ({ treatment, what, here, there }) =>
            `${track.name}, ${treatment}: ${what}${here || there ? ` ${here || '–'} now, ${there || '–'} then` : ''}`,
        )
      : [`${track.name} was not there yet`];
  }),
});

const TERMS: readonly (readonly [pattern: RegExp, term: string, meaning: string])[] = [
  [
    /LUFS/,
    'LUFS',
    'Loudness of a whole programme as ears judge it (ITU-R BS.1770). −16 is usual for podcasts, −23 for European broadcast.',
  ],
  [/\bLU\b/, 'LU', 'A step of loudness; about the least difference that is noticed.'],
  [/dBTP/, 'dBTP', 'Highest peak of the sound wave itself, between the samples, too. 0 is the most that a medium holds.'],
  [/dBFS/, 'dBFS', 'Level against the most that a file holds; 0 is full, −60 is hardly heard.'],
  [/RMS/, 'RMS', 'Mean level over time.'],
  [/[Nn]oise floor/, 'Noise floor', 'How loud it is where nobody speaks. Lower is quieter.'],
  [/[Ll]oudness range/, 'Loudness range', 'How far soft and loud passages lie apart (EBU Tech 3342).'],
  [/kHz|Hz/, 'Hz, kHz', 'Vibrations a second: hum lies at 50 to 300 Hz, a voice mostly at 100 Hz to 8 kHz.'],
  [/[Rr]oom tone/, 'Room tone', 'The sound of the room itself, in place of what disturbed, so that no hole is heard.'],
];

export interface ReportFrom {
  readonly title: string;
  readonly madeAt: Date;
  readonly fileName: string;
  readonly document: SessionDocument;
  readonly received: readonly ReceivedFrom[];
  readonly target: DeliveryTarget;
  readonly sheet: readonly CheckLine[];
  /** null where it is not known what was done to the level. */
  readonly work: LevelWork | null;
  readonly after: SoundFigures;
  readonly loudness: Report['loudness'];
  readonly picture: string | null;
}

export function makeReport(from: ReportFrom): Report {
  const { document, target, sheet, after } = from;
  const bare: Omit<Report, 'terms'> = {
    format: 'euphonos-report',
    version: 1,
    title: from.title,
    madeAt: from.madeAt.toISOString(),
    fileName: from.fileName,
    received: from.received.map(receivedOf),
    done: doneOf(document),
    level: from.work ? levelWords(from.work) : [],
    target: { name: target.name, file: fileWords(target.file, after.sampleRateHz, after.channels) },
    measured: sheet,
    passed: sheet.every(({ passed }) => passed !== false),
    loudness: from.loudness,
    picture: from.picture,
    versions: document.versions.map((version) => versionOf(version, document)),
  };
  const said = JSON.stringify({ ...bare, picture: null, received: bare.received.map((one) => ({ ...one, picture: null })) });
  return { ...bare, terms: TERMS.filter(([pattern]) => pattern.test(said)).map(([, term, meaning]) => ({ term, meaning })) };
}
