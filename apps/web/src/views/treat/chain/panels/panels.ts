import type { TreatmentKind } from '@euphonos/dsp';
import type { ComponentType } from 'react';
import { BleedPanel } from '../../../under/bleed-panel.js';
import { BreathsPanel } from './breaths-panel.js';
import { ClicksPanel } from './clicks-panel.js';
import { DynamicsPanel } from './dynamics-panel.js';
import { GatePanel } from './gate-panel.js';
import { HumPanel } from './hum-panel.js';
import { NoisePanel } from './noise-panel.js';
import type { PanelProps } from './panel.js';
import { PausesPanel } from './pauses-panel.js';
import { SpotsPanel } from './spots-panel.js';
import { UnderSpeechPanel } from '../../../under/under-speech-panel.js';
import { TonePanel } from './tone-panel.js';

/** Treatments that have more than rulers and words. */
export const panels: Partial<Record<TreatmentKind, ComponentType<PanelProps>>> = {
  'hum-notch': HumPanel,
  'hum-lines': HumPanel,
  'noise-reduction': NoisePanel,
  tone: TonePanel,
  breaths: BreathsPanel,
  pauses: PausesPanel,
  gate: GatePanel,
  expander: GatePanel,
  levelling: DynamicsPanel,
  compressor: DynamicsPanel,
  limiter: DynamicsPanel,
  'under-speech': UnderSpeechPanel,
  bleed: BleedPanel,
  clicks: ClicksPanel,
  spots: SpotsPanel,
};
