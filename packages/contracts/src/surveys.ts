import type { Survey } from '@euphonos/dsp';
import type { JobView } from './jobs.js';

/** GET /api/recordings/:id/survey */
export interface SurveyView {
  readonly recordingId: string;
  readonly job: JobView;
  /** null until it is done. */
  readonly survey: Survey | null;
}
