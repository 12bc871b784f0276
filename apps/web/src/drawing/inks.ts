import type { Lane } from '@euphonos/engine';
import { COLUMN_FLOOR_DBFS, COLUMN_STEP_DB } from '@euphonos/dsp';

export type Rgb = readonly [number, number, number];

const INK_RANGE_DB = 60;

/** Read once a theme: asking the browser in every frame would make it lay out the page in every frame. */
const colours = new Map<string, string>();

/** A colour of the page that is shown now (day or evening). */
export function pageColour(name: Lane | 'ink' | 'soft' | 'line' | 'faint' | 'paper' | 'sheet' | 'practice' | 'focus'): string {
  const key = `${pageTheme()}/${name}`;
  const known = colours.get(key);
  if (known) return known;
  const colour = getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
  if (colour) colours.set(key, colour);
  return colour;
}

export function rgbOf(hex: string): Rgb {
  const value = Number.parseInt(hex.slice(1), 16);
  return [(value >> 16) & 255, (value >> 8) & 255, value & 255];
}

/** Opacity (0 … 255) for each stored level: nothing at the floor, full ink 60 dB above. */
export function inkTable(floorDbfs: number): Uint8ClampedArray {
  return Uint8ClampedArray.from({ length: 256 }, (_, value) => {
    const share = (value * COLUMN_STEP_DB + COLUMN_FLOOR_DBFS - floorDbfs) / INK_RANGE_DB;
    // A gentle curve: the quiet half of the range would otherwise look empty on paper.
    return value === 0 ? 0 : 255 * Math.max(0, Math.min(1, share)) ** 1.25;
  });
}

/** Which theme is shown; pictures are drawn anew when it changes. */
export const pageTheme = (): string => document.documentElement.dataset['theme'] ?? 'day';

/** Calls back when the page's theme changes. Returns how to stop. */
export function onThemeChange(listener: () => void): () => void {
  const observer = new MutationObserver(listener);
  observer.observe(document.documentElement, { attributes: true, attributeFilter: ['data-theme'] });
  return () => observer.disconnect();
}
