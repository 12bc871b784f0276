import { MAX_NAME_LENGTH, type RecordingView } from '@euphonos/contracts';
import { jobView } from '../jobs/job.entity.js';
import type { RecordingEntity } from './recording.entity.js';

export const recordingView = ({ id, fileName, sizeBytes, originalSha, job, facts, blobs, driftPpm }: RecordingEntity): RecordingView => ({
  id,
  fileName,
  sizeBytes,
  sha256: originalSha,
  facts,
  driftPpm,
  job: jobView(job),
  pictureSoundAtSeconds: blobs?.picture && 'sha' in blobs.picture ? blobs.picture.soundAtSeconds : null,
  pictureProblem: blobs?.picture && 'problem' in blobs.picture ? blobs.picture.problem : null,
});

/** A name as it can be shown and stored: no control characters, no path, cut to length; never empty. */
export function cleanName(given: string): string {
  const base = given.split(/[/\\]/).pop() ?? '';
  // Control characters have no place in a name; lone surrogates cannot be stored as UTF-8.
  const printable = Array.from(base).filter((sign) => !/[\p{Cc}\p{Cs}]/u.test(sign));
  return printable.slice(0, MAX_NAME_LENGTH).join('').trim() || 'recording';
}
