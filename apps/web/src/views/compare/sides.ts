import { treatmentOf } from '@euphonos/dsp';
import type { Track, Version } from '@euphonos/engine';
import type { ListeningState } from '../../store/listening-slice.js';

/** Something that can be heard: a name, and how listening is set for it. */
export interface Side {
  readonly id: string;
  readonly name: string;
  readonly listening: Pick<ListeningState, 'lane' | 'shownVersion' | 'without'>;
}

/** What can be compared of a track: source, result, its versions, and the result without one of its treatments. */
export function sidesOf({ chain }: Pick<Track, 'chain'>, versions: readonly Pick<Version, 'id' | 'name'>[]): Side[] {
  const result = { lane: 'result', shownVersion: null, without: null } as const;
  return [
    { id: 'result', name: 'Result', listening: result },
    { id: 'source', name: 'Source', listening: { ...result, lane: 'source' } },
    ...versions.map(({ id, name }) => ({ id: `version/${id}`, name, listening: { ...result, shownVersion: id } })),
    ...chain.treatments
      .filter(({ bypassed }) => !bypassed)
      .map(({ id, kind }) => ({ id: `without/${id}`, name: `Without ${treatmentOf(kind).title}`, listening: { ...result, without: id! } })),
  ];
}
