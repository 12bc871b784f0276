import { loweredPart, parametersOf, type Pause } from '@euphonos/dsp';
import type { PanelProps } from './panel.js';
import { SpansPanel, type SpansOf } from './spans-panel.js';

const pauses: SpansOf<Pause> = {
  list: 'pauses', one: 'pause', many: 'pauses',
  found: (findings) => findings.flatMap((finding) => (finding.kind === 'pauses' ? finding.spans : [])),
  words: () => '',
  spared: (pause, settings) => (loweredPart(pause, parametersOf(settings) as never) ? null : 'too short'),
};

export const PausesPanel = ({ settings, set }: PanelProps) => <SpansPanel settings={settings} set={set} about={pauses} />;
