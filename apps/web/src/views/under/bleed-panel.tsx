import type { ListRow } from '@euphonos/dsp';
import { useApp } from '../../store/store.js';
import { SpansPanel, type SpansOf } from '../treat/chain/panels/spans-panel.js';
import type { PanelProps } from '../treat/chain/panels/panel.js';
import { microphones, useBleed } from './use-bleed.js';

interface Bleed {
  readonly startSeconds: number;
  readonly endSeconds: number;
  readonly state: 'treat' | 'leave';
}

const about: SpansOf<Bleed> = {
  list: 'bleed',
  one: 'stretch of others',
  many: 'stretches of others',
  found: () => [],
  words: () => '',
  spared: () => null,
};

/** Where only somebody else is heard: looked for, stepped through, left one by one. */
export function BleedPanel({ track, settings, set }: PanelProps) {
  const others = useApp(({ session }) => microphones(session!.history!.present).length);
  const { working, look } = useBleed();
  const rows = settings['bleed'] as readonly ListRow[];
  return (
    <>
      <p className="m-0 mb-1 flex items-baseline gap-2 text-[12px]">
        <span className="grow text-soft">
          {others < 2
            ? 'It needs the other microphones of the scene on tracks of their own.'
            : rows.length === 0
              ? 'Who leads is told by level and by what arrives first.'
              : ''}
        </span>
        <button type="button" className="press py-0!" disabled={working || others < 2} onClick={() => void look(track.id)}>
          {working ? 'Listening to all …' : rows.length === 0 ? 'Look for it' : 'Look again'}
        </button>
      </p>
      {rows.length > 0 && <SpansPanel settings={settings} set={set} about={about} />}
    </>
  );
}
