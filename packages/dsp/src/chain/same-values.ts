import type { ListRow } from '../treatments/definition.js';
import { findTreatment } from '../treatments/registry.js';
import type { TreatmentSettings } from './chain-spec.js';

type Item = ListRow | number;

/** Whether two lists say the same: compared in place, as thousands of pauses come with every movement of a control. */
function sameRows(a: readonly Item[], b: readonly Item[]): boolean {
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) {
    const x = a[i]!;
    const y = b[i]!;
    if (typeof x === 'number' || typeof y === 'number') {
      if (x !== y) return false;
    } else for (const field in x) if (x[field] !== y[field]) return false;
  }
  return true;
}

/** Whether two settings of one kind say the same. */
export function sameValues(a: TreatmentSettings, b: TreatmentSettings): boolean {
  const { parameters, choices, lists } = findTreatment(a.kind)!;
  for (const name in parameters) if (a[name] !== b[name]) return false;
  for (const name in choices) if (a[name] !== b[name]) return false;
  for (const name in lists) if (a[name] !== b[name] && !sameRows(a[name] as readonly Item[], b[name] as readonly Item[])) return false;
  return true;
}
