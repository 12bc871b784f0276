import { breathRow, type Breath } from '@euphonos/dsp';
import type { PanelProps } from './panel.js';
import { SpansPanel, type SpansOf } from './spans-panel.js';

const breaths: SpansOf<Breath> = {
  list: 'breaths', one: 'breath', many: 'breaths',
  found: (findings) => findings.flatMap((finding) => (finding.kind === 'breaths' ? finding.spans.map(breathRow) : [])),
  words: ({ certaintyPercent }) => ` · ${certaintyPercent} % sure`,
  spared: ({ certaintyPercent }, settings) => (certaintyPercent < (settings['leastPercent'] as number) ? 'not sure enough' : null),
};

export const BreathsPanel = ({ settings, set }: PanelProps) => <SpansPanel settings={settings} set={set} about={breaths} />;
