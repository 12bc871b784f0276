import { defaultTreatment, type ChainSpec } from '@euphonos/dsp';
import { targets } from '../delivery/targets.js';
import { plainClip } from './clip.js';
import { SCHEMA_VERSION, type SessionDocument } from './document.js';

/** What a new session needs to know of its first recording. */
export interface RecordingFacts {
  readonly id: string;
  readonly name: string;
  readonly lengthFrames: number;
  readonly sampleRateHz: number;
  readonly channels: number;
}

/** The chain that a new track starts with, in the usual order of work: the high-pass on, the rest waiting. */
function startingChain(): ChainSpec {
  return {
    treatments: [
      { ...defaultTreatment('high-pass'), id: 't1' },
      { ...defaultTreatment('hum-notch'), id: 't2', bypassed: true },
      { ...defaultTreatment('noise-reduction'), id: 't3' },
      { ...defaultTreatment('gate'), id: 't4', bypassed: true },
    ],
  };
}

/** A session with one recording on one speech track. Of more than two channels the first two are taken. */
export function createDocument(recording: RecordingFacts): SessionDocument {
  const { id, name, lengthFrames, sampleRateHz, channels } = recording;
  return {
    schemaVersion: SCHEMA_VERSION,
    sampleRateHz,
    target: targets[0]!,
    chain: { treatments: [] },
    versions: [],
    tracks: [
      {
        id: 'track-1',
        name,
        role: 'speech',
        recordingId: id,
        recordingFrames: lengthFrames,
        channels: channels === 1 ? [0] : [0, 1],
        chain: startingChain(),
        noise: null,
        noiseHeld: false,
        loop: null,
        clips: [plainClip('c1', 0, { startFrame: 0, endFrame: lengthFrames })],
        clipsMade: 1,
        roomTone: null,
        gainDb: 0,
        muted: false,
      },
    ],
  };
}
