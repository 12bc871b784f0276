export { DspError, type DspErrorCode } from './errors.js';
export * from './units.js';
export {
  createBlock,
  LEAD_SECONDS,
  MAX_BLOCK_FRAMES,
  type PlanarBlock,
  type Processor,
  type ProcessorContext,
  type TreatmentEvent,
} from './processor.js';
export { Memory } from './memory.js';
export { copyFrames } from './copy-frames.js';
export { DelayLine } from './delay-line.js';
export type { KernelModule } from './kernels/instance.js';
export { Packer, type Packing } from './kernels/packer.js';
export { RealFft } from './kernels/real-fft.js';
export {
  inBackground,
  settingNames,
  type ChoiceSpec,
  type ListRow,
  type ListSpec,
  type ListValue,
  type ParameterSpec,
  type ParameterSpecs,
  type StageFacts,
  type ParameterUnit,
  type ParameterValues,
  type SettingValue,
  type TreatmentDefinition,
} from './treatments/definition.js';
export { findTreatment, treatmentKinds, treatmentOf, treatments, type TreatmentKind } from './treatments/registry.js';
export {
  defaultTreatment,
  MAX_TREATMENTS,
  memoryKey,
  needsProfile,
  parametersOf,
  parseChain,
  withoutDeep,
  type ChainSpec,
  type TreatmentSettings,
} from './chain/chain-spec.js';
export { parseSetting } from './chain/parse-setting.js';
export { chainDifferences, chainKeepingTimes, portableChain, timedLists, type ChainDifference } from './chain/portable.js';
export { Chain } from './chain/chain.js';
export { gateTrack, TRACK_STEP_MS, type GateListens } from './sound-check/gate-track.js';
export { bestThresholds, gateThresholds, wordOnsets, type GateTracks, type Thresholds } from './sound-check/thresholds.js';
export { chainForTake } from './sound-check/suggest-chain.js';
export { checkSound, type HeardListens, type SoundCheck } from './sound-check/check.js';
export type { SoundCheckFigures } from './sound-check/figures.js';
export { FeedbackGuard } from './sound-check/feedback.js';
export { Listening, listens, type Listen, type ListenState } from './sound-check/listening.js';
export { takeFigures, type TakeFigures } from './sound-check/take-figures.js';
export { LiveChain, liveNotes, type LiveNote } from './live/live-chain.js';
export { Turn, turned } from './chain/turn.js';
export { nearestZeroCrossing } from './measures/zero-crossing.js';
export { roomLevelDb, roomToneGain } from './noise/room-level.js';
export { likeness, makeRoomTone, SHORTEST_TONE_SECONDS } from './noise/room-tone.js';
export { joinProfiles, MIN_NOISE_SECONDS, takeNoiseProfile } from './noise/profile.js';
export type { ChannelNoise, NoiseProfile } from './noise/noise-profile.js';
export {
  densityToPowerDb,
  parseProfileFile,
  profileFromFile,
  profileToFile,
  type ChannelDensity,
  type NoiseProfileFile,
} from './noise/profile-file.js';
export { compareProfiles, profileLines, type ProfileDifference, type ProfileLines } from './noise/profile-lines.js';
export { curveOffsetDb, reductionCurveDb, type ReductionShape } from './treatments/noise-reduction/reduction-curve.js';
export type { VoiceLoss } from './treatments/noise-reduction/loss-track.js';
export { measurePrice, type NoisePrice, type PriceCurve } from './treatments/noise-reduction/price.js';
export { OPINION_FRAMES, provideSuppressor, type Suppressor } from './noise/second-opinion.js';
export { judgeNoisePassage, type NoiseJudgement } from './noise/judge.js';
export { GrowingList } from './measures/growing-list.js';
export { kWeighting } from './measures/k-weighting.js';
export { LoudnessMeter, powerToLufs, StepLoudness, stepFramesOf } from './measures/loudness.js';
export {
  COURSE_STEP_SECONDS,
  courseOf,
  courseWithin,
  integratedSoFar,
  MOMENTARY_SECONDS,
  rangeOf,
  SHORT_TERM_SECONDS,
  type LoudnessCourse,
} from './measures/loudness-course.js';
export { TruePeakMeter } from './measures/true-peak-meter.js';
export { matchTone, toneDifference, toneGainDb } from './measures/match-tone.js';
export { LongTermSpectrum } from './measures/long-term-spectrum.js';
export { LevelMeter } from './measures/level-meter.js';
export { SoundMeasure, type SoundFigures } from './measures/sound-measure.js';
export { TruePeakLimiter, type LimiterSettings } from './limiter/true-peak-limiter.js';
export { frameSizeFor } from './spectrum/window.js';
export { COARSE_HOP_FRAMES, COARSE_ROWS, CoarseSpectrogram } from './spectrum/coarse-spectrogram.js';
export {
  COLUMN_FLOOR_DBFS,
  COLUMN_STEP_DB,
  ColumnMaker,
  meanSpectrumDb,
  LOWEST_HZ,
  rowFrequency,
  type FrequencyAxis,
} from './spectrum/spectrogram.js';
export { BUCKET_FRAMES, BUCKET_VALUES, bucketCount, LEVEL_RATIO, levelOffset, peakLevelCount, PeaksBuilder } from './peaks.js';
export { Surveyor } from './survey/surveyor.js';
export { LEAST_OFFSET } from './survey/judge-findings.js';
export { meanWithin, TrackListener, whoSpeaks, type Listened, type Spoken } from './survey/who-speaks.js';
export { breathRow } from './survey/suggest.js';
export {
  findingOrder,
  SURVEY_VERSION,
  type BreathSpan,
  type Finding,
  type FindingFacts,
  type FindingKind,
  type HumLine,
  type NoisePassage,
  type Survey,
  type ThirdOctave,
} from './survey/findings.js';
export { SPEED, TimeStretch } from './stretch/time-stretch.js';
export { BleedListener } from './bleed/bleed-listener.js';
export { findBleed } from './bleed/find-bleed.js';
export { findJoins, type BedJoin } from './bed/find-joins.js';
export { planBed, type BedPiece, type BedPlan } from './bed/plan-bed.js';
export { lineUp, type LineUp } from './line-up/line-up.js';
export type { ReadableSound } from './line-up/envelope.js';
export { moveFinding } from './survey/move-finding.js';
export { findingsFor, peopleApart, MOST_SURVEYED_CHANNELS } from './survey/findings-for.js';
export type { SpanSeconds } from './span-seconds.js';
export { harmonicsOf, MOST_HARMONICS } from './hum/line-tracker.js';
export { asToneBands, toneSection, type ToneBand } from './treatments/tone/tone.js';
export { asBreaths, breaths, treatedBreaths, type Breath } from './treatments/breaths/breaths.js';
export { asPauses, loweredPart, loweredPauses, pauses, takenPart, takenPauses, type Pause } from './treatments/pauses/pauses.js';
export {
  evenLevels,
  findPauses,
  LevelTracker,
  suggestPauseThresholds,
  type LevelTrack,
  type PauseRules,
} from './treatments/pauses/find-pauses.js';
export { asTalk, countedTalk, type TalkSpan } from './treatments/under-speech/settings.js';
export { SpeechCurve } from './treatments/under-speech/speech-curve.js';
export { asSpots, type Spot } from './treatments/spots/spots.js';
export { butterworthHighPass, cascadeMagnitude, notchSection } from './filters/sections.js';
