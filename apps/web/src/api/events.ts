import type { JobEvent, TalkEvent } from '@euphonos/contracts';

interface Events {
  readonly job: JobEvent;
  readonly talk: TalkEvent;
}
type Listeners = { readonly [Kind in keyof Events]: Set<(event: Events[Kind]) => void> };

const listeners: Listeners = { job: new Set(), talk: new Set() };
const reconnects = new Set<() => void>();
const AGAIN_MS = 5000;
let source: EventSource | undefined;

function open(opened = false): void {
  source = new EventSource('/api/events');
  const hear = <Kind extends keyof Events>(kind: Kind): void =>
    source!.addEventListener(kind, ({ data }) => listeners[kind].forEach((call) => call(JSON.parse(data as string) as Events[Kind])));
  hear('job');
  hear('talk');
  source.addEventListener('open', () => {
    if (opened) reconnects.forEach((call) => call());
    opened = true;
  });
  // A line that was refused (nobody is signed in) is not tried again by the browser.
  source.addEventListener('error', () => {
    if (source?.readyState === EventSource.CLOSED) setTimeout(() => open(true), AGAIN_MS);
  });
}

function listen<Kind extends keyof Events>(kind: Kind, listener: (event: Events[Kind]) => void, onReconnect: () => void): () => void {
  if (!source) open();
  listeners[kind].add(listener);
  reconnects.add(onReconnect);
  return () => {
    listeners[kind].delete(listener);
    reconnects.delete(onReconnect);
  };
}

/** Calls back at every report of a job, and `onReconnect` when reports may have been missed. Returns how to stop. */
export const onJobEvent = (listener: (event: JobEvent) => void, onReconnect: () => void): (() => void) =>
  listen('job', listener, onReconnect);

/** The same for what people say of sessions. */
export const onTalkEvent = (listener: (event: TalkEvent) => void, onReconnect: () => void): (() => void) =>
  listen('talk', listener, onReconnect);
