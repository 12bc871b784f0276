import { useSyncExternalStore } from 'react';
import { onThemeChange, pageTheme } from '../drawing/inks.js';

export const useTheme = (): string => useSyncExternalStore(onThemeChange, pageTheme);

/** Turns the page: day or evening, kept for the next visit. */
export function turnPage(): void {
  const next = pageTheme() === 'day' ? 'evening' : 'day';
  document.documentElement.dataset['theme'] = next;
  localStorage.setItem('euphonos.theme', next);
}
