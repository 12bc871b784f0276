export { aloneChain, narrowBandChain, splitChain, type SplitChain } from './monitor/split-chain.js';
export type { Dynamics } from './offline/dynamics.js';
export { measureEffects, type TouchedWord, type TreatmentEffect } from './offline/effects.js';
export { EngineError, type EngineErrorCode } from './errors.js';
export {
  MOST_PASSAGES,
  MOST_TRACKS,
  MOST_VERSIONS,
  mixChannels,
  mixedTracks,
  MOST_MARKS,
  PAN,
  panGains,
  TRACK_GAIN_DB,
  WHOLE,
  noisePlan,
  noiseSpans,
  withSpans,
  SCHEMA_VERSION,
  type Mark,
  type NoisePassageSpan,
  type NoiseSource,
  type SessionDocument,
  type Track,
  type Version,
} from './document/document.js';
export { spanFrames, type Span } from './document/span.js';
export { addRecording, createDocument, newTrack, type Placing } from './document/create.js';
export {
  channelsFor,
  liesInPart,
  MOST_PARTS,
  partAt,
  partEnd,
  partsIn,
  reelChannels,
  reelFrames,
  type RecordingFacts,
  type Reel,
  type ReelPart,
} from './document/reel.js';
export { applyEdit, requireTrack, type Edit } from './document/edits.js';
export { startingChains } from './chains/starting-chains.js';
export { CHAIN_FORMAT, chainOfFile, chainToFile, parseChainFile, type ChainFile } from './chains/chain-file.js';
export { describePan } from './document/track-edits.js';
export { describeEdit, gestureKey } from './document/describe.js';
export {
  historyLog,
  record,
  redo,
  replay,
  startHistory,
  undo,
  type History,
  type HistoryLog,
  type HistoryStep,
} from './document/history.js';
export { marksAsCsv, marksAsVtt, marksFromCsv, marksFromVtt, type ReadMark } from './document/mark-files.js';
export {
  BUNDLE_FORMAT,
  BUNDLE_VERSION,
  parseBundle,
  sourcesOf,
  profileIdsOf,
  withIds,
  type Bundle,
  type BundledProfile,
  type BundledRecording,
  type BundledSession,
} from './exchange/bundle.js';
export {
  channelWord,
  digitsOf,
  formatBytes,
  formatDb,
  formatNumber,
  formatRate,
  formatTime,
  setMinus,
  unitDigits,
  unitText,
} from './words/figures.js';
export { adviceOf, takeDifference, type CheckAdvice } from './words/sound-check-words.js';
export { certaintyWord, channelInWords, inWords, passageInWords, type Gauge, type InWords } from './words/finding-words.js';
export { makeReport, type Received, type ReceivedFrom, type Report, type ReportFrom } from './report/report.js';
export { reportAsHtml } from './report/report-html.js';
export { missesOf, prepare, suggestedChain, type Prepared } from './batch/suggested.js';
export { clipPieces, originalPieces, type Piece } from './delivery/pieces.js';
export { coverType, MOST_COVER_BYTES, requireCover, type Cover } from './delivery/cover.js';
export { readForeignJson, type JsonLimits } from './exchange/foreign-json.js';
export { notInOtio, timelineAsOtio, type Media } from './exchange/otio-write.js';
export type { Linkable } from './exchange/otio-items.js';
export { timelineFromOtio, type ReadTimeline } from './exchange/otio-read.js';
export { isDocumentError, parseDocument } from './document/parse.js';
export {
  CEILING_RANGE_DBTP,
  LOUDNESS_RANGE_LUFS,
  RANGE_RANGE_LU,
  RMS_RANGE_DBFS,
  requireTarget,
  ceilingOf,
  speechBand,
  targets,
  type DeliveryTarget,
} from './delivery/targets.js';
export { checkSheet, type CheckLine, type FileFacts, type LevelWork, type Mend } from './delivery/check-sheet.js';
export { EDGE_RANGE_SECONDS, edgeSeconds, edgeWords, NO_EDGES, type Edge, type Edges } from './delivery/edges.js';
export { fileNameOf, LONGEST_PATTERN, namePlaces, requireNamePattern, safeName, USUAL_NAME, type NameParts } from './delivery/file-name.js';
export { LONGEST_TAG, NO_TAGS, requireTags, tagKeys, type Tags } from './delivery/tags.js';
export { foresee, gainTo, type Foreseen } from './delivery/foresee.js';
export {
  bitsOf,
  fileFormats,
  fileWords,
  formatFacts,
  formatOfName,
  isLossy,
  kbpsOf,
  PLAIN_FILE,
  rateOf,
  requireFileSpec,
  type BitDepth,
  type FileFormat,
  type FileSpec,
} from './delivery/file-spec.js';
export { runThrough } from './offline/run-through.js';
export { AlignedRun, chainRun, comparedRun, type Sink } from './offline/chain-run.js';
export {
  fitsMixLead,
  mixLeadFrames,
  PART_SECONDS,
  partFramesAt,
  PartNotes,
  partedChain,
  partedTurn,
  type PartedChain,
  type Parting,
  type PartMemory,
} from './offline/parted-chain.js';
export { priceOf, type ChainPrice } from './offline/price.js';
export { chainBeforeProfile, placedProfile, profilePassages, type ReadFrames } from './offline/profile-passage.js';
export type { MonitorSource } from './monitor/hearing.js';
export { Monitor, type MonitorStatus } from './monitor/monitor.js';
export type { BesideTrack } from './monitor/beside.js';
export type { Mix } from './monitor/mixdown.js';
export { firstChange } from './arrangement/first-change.js';
export { GRID_FRAMES, Memories, type Remembered, type Start } from './monitor/memories.js';
export { MemoryPass } from './monitor/memory-pass.js';
export { lanes, type Lane, type MeterReading } from './monitor/lane-mixer.js';
export { CHUNK_FRAMES, ChunkStore, type SampleStore } from './monitor/sample-store.js';
export { QUANTUM_FRAMES } from './monitor/voice.js';
export { SEAM_FRAMES } from './monitor/timeline.js';
export {
  CLIP_GAIN_DB,
  clipEnd,
  clipFrames,
  fadeCurves,
  offsetOf,
  plainClip,
  type Clip,
  type ClipSound,
  type Fade,
  type FadeCurve,
  type GainPoint,
} from './document/clip.js';
export { breathsEdit, pausesEdit, type PauseTone } from './document/pauses-edit.js';
export { type ClipsEdit } from './document/clips-edit.js';
export { continues } from './document/clip-edits.js';
export { copySpan, missingBefore, type CopiedClips } from './document/clip-moves.js';
export {
  clipAfter,
  clipAt,
  clipsIn,
  endOf,
  followFrame,
  isPlain,
  Placer,
  recordingFrameAt,
  recordingSpans,
  takenFinder,
} from './arrangement/places.js';
export { alignCuts } from './arrangement/align-cuts.js';
export { arrangedFrames, readArranged, type Arrangement, type ReadRecording } from './arrangement/arranged-sound.js';
export { clipNeedsProfile, clipProfile, readThroughChain, type ClipNoise } from './arrangement/clip-chain.js';
export { Levels, levelTable, lineDb, type LevelTable } from './arrangement/levels.js';
export { EDGE_SECONDS, edgesOf, fadeGain, jointOf, soundKey, touch } from './arrangement/joints.js';
export { inPlace, placedChain } from './arrangement/placed-chain.js';
export { pointsOf, traceGain, type GainTrace } from './offline/gain-trace.js';
export { levelOf, raised, spreadLu, type BalanceLine, type Level, type MeasuredLevel } from './balance/levels.js';
export { depthFor, differingShare, speechOverBed, talkRows, type SpeechOverBed } from './balance/under.js';
export { atLevel, noiseUnderBed, type NoiseUnderBed } from './balance/noise-under.js';
export { LOUD_OVER_TARGET_LU, PEAK_STEP_SECONDS, rulePlaces, type RulePlace } from './balance/rules.js';
export { talkLufs } from './balance/talk-level.js';
export { match, type Matched, type MatchWish } from './balance/match.js';
export type { LevelSetting } from './document/level-edits.js';
