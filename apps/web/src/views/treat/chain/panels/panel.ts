import type { SettingValue, TreatmentSettings } from '@euphonos/dsp';
import type { Clip } from '@euphonos/engine';

/** What a panel of a treatment is given: its settings, and how to change one. */
export interface PanelProps {
  readonly clip: Clip;
  readonly settings: TreatmentSettings;
  readonly set: (name: string, value: SettingValue) => void;
}
