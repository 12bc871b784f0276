import { sourceOf, type SampleSource } from '../samples.js';

/** A source of one channel of one recording of so many frames. */
export const oneRecording = (lengthFrames: number, channel = 0): SampleSource =>
  sourceOf([{ recordingId: 'r', channels: [channel], startFrame: 0, frames: lengthFrames }]);
