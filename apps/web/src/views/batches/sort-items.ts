import type { BatchItemView } from '@euphonos/contracts';

export type Column = 'as it came' | 'name' | 'length' | 'state' | 'loudness' | 'floor' | 'ear';

const STEPS = { failed: 0, reading: 1, treating: 2, rendering: 3, done: 4 } as const;

/** What a column is sorted by; null comes last. */
function valueOf(item: BatchItemView, column: Column): number | string | null {
  switch (column) {
    case 'as it came':
      return 0;
    case 'name':
      return item.fileName.toLowerCase();
    case 'length':
      return item.seconds;
    case 'state':
      return STEPS[item.step] + (item.passed ? 0.5 : 0);
    case 'loudness':
      return item.integratedLufs;
    case 'floor':
      return item.noiseFloorDbfs[1];
    case 'ear':
      return item.step === 'done' ? -item.needsEar.length : null;
  }
}

/** Items by a column; equal ones stay in the order in which they came. */
export function sorted(items: readonly BatchItemView[], column: Column, descending: boolean): BatchItemView[] {
  const sign = descending ? -1 : 1;
  return items
    .map((item, i) => ({ item, i, value: valueOf(item, column) }))
    .sort((a, b) => {
      if (a.value === null || b.value === null) return Number(a.value === null) - Number(b.value === null) || a.i - b.i;
      const by =
        typeof a.value === 'string' ? a.value.localeCompare(String(b.value), undefined, { numeric: true }) : a.value - Number(b.value);
      return sign * by || a.i - b.i;
    })
    .map(({ item }) => item);
}

/** The next one behind `from` that nobody has heard yet, round the end; null where there is none. */
export function nextUnheard(items: readonly BatchItemView[], from: string | null): string | null {
  const at = items.findIndex(({ sessionId }) => sessionId === from);
  const order = [...items.slice(at + 1), ...items.slice(0, at + 1)];
  return order.find(({ step, accepted }) => step === 'done' && !accepted)?.sessionId ?? null;
}
