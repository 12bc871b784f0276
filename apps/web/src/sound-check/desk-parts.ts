import type { Remote } from 'comlink';
import type { Microphone } from '../microphone/microphone.js';
import type { RecorderCommand } from '../recorder/protocol.js';
import type { CheckWorker } from './check.worker.js';
import type { DeskState } from './desk-state.js';

/** What the parts of a desk share. */
export interface DeskParts {
  readonly state: () => DeskState;
  readonly set: (change: Partial<DeskState>) => void;
  readonly microphone: () => Microphone | null;
  readonly tellRecorder: (command: RecorderCommand) => void;
  readonly compute: Remote<CheckWorker>;
}
