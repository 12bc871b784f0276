import type { SettingValue, TreatmentSettings } from '@euphonos/dsp';
import type { Track } from '@euphonos/engine';

/** What a panel of a treatment is given: its settings, and how to change one. */
export interface PanelProps {
  readonly track: Track;
  readonly settings: TreatmentSettings;
  readonly set: (name: string, value: SettingValue) => void;
}
