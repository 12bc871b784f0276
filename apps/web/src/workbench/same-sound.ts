import { parametersOf, type ChainSpec } from '@euphonos/dsp';

/** Whether two chains sound the same: ids and bypassed treatments' settings do not count. */
export function sameSound(a: ChainSpec, b: ChainSpec): boolean {
  const sound = (spec: ChainSpec): string => JSON.stringify(spec.treatments.filter(({ bypassed }) => !bypassed).map((settings) => [settings.kind, parametersOf(settings)]));
  return a === b || sound(a) === sound(b);
}
