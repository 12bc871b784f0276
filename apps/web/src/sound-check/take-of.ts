import { chainForTake } from '@euphonos/dsp';
import { chainToFile } from '@euphonos/engine';
import type { RecorderCommand } from '../recorder/protocol.js';
import { PRE_ROLL_SECONDS } from '../recorder/recorder.js';
import type { DeskState } from './desk-state.js';

/** The take that begins now: its name and number, and the chain and the noise that are kept beside it. */
export function takeOf(
  { chain, check, takeName, preRoll, facts, takes }: DeskState,
  sittingId: string,
  profileId: string | null,
): Omit<Extract<RecorderCommand, { type: 'start' }>, 'type'> {
  const kept = check ? chainForTake(chain, check.thresholds) : chain;
  return {
    preRollSeconds: preRoll ? PRE_ROLL_SECONDS : 0,
    take: {
      id: crypto.randomUUID(),
      name: `${takeName.trim() || 'Take'} ${takes.length + 1}`,
      sittingId,
      device: facts?.label ?? '',
      ...(kept.treatments.length > 0 ? { chain: chainToFile(kept, 'Sound check', 'Thresholds from three listens') } : {}),
      ...(profileId ? { profileId } : {}),
    },
  };
}
