import type { ReelPart } from '@euphonos/engine';

/** Where the peaks of a part lie: of the one channel that it uses, or of all of them. */
export const peaksPath = ({ recordingId, channels }: Pick<ReelPart, 'recordingId' | 'channels'>, all = 1): string =>
  all > 1 && new Set(channels).size === 1 ? `${recordingId}/peaks/${channels[0]}` : `${recordingId}/peaks`;
