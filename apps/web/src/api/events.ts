import type { JobEvent } from '@euphonos/contracts';

type Listener = (event: JobEvent) => void;

const listeners = new Set<Listener>();
const reconnects = new Set<() => void>();
let source: EventSource | undefined;

/** Calls back at every report of a job, and `onReconnect` when reports may have been missed. Returns how to stop. */
export function onJobEvent(listener: Listener, onReconnect: () => void): () => void {
  if (!source) {
    source = new EventSource('/api/events');
    let opened = false;
    source.addEventListener('job', ({ data }) => listeners.forEach((call) => call(JSON.parse(data as string) as JobEvent)));
    source.addEventListener('open', () => {
      if (opened) reconnects.forEach((call) => call());
      opened = true;
    });
  }
  listeners.add(listener);
  reconnects.add(onReconnect);
  return () => {
    listeners.delete(listener);
    reconnects.delete(onReconnect);
  };
}
