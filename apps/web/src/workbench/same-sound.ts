import { parametersOf, type ChainSpec } from '@euphonos/dsp';
import { aloneChain, narrowBandChain, type Span } from '@euphonos/engine';
import type { TrackSound } from '../audio/arranged.js';
import type { TreatedSpan } from '../passage/passage-computer.js';

/** What is heard by itself: what one treatment takes out, or a narrow band at its place. */
export interface Aside {
  readonly treatmentId: string;
  readonly bandHz?: number;
}

export const heardChain = (spec: ChainSpec, aside: Aside | null): ChainSpec =>
  aside === null
    ? spec
    : aside.bandHz === undefined
      ? aloneChain(spec, aside.treatmentId)
      : narrowBandChain(spec, aside.treatmentId, aside.bandHz);

/** Whether two chains sound the same: ids and bypassed treatments' settings do not count. */
export function sameSound(a: ChainSpec, b: ChainSpec): boolean {
  const sound = (spec: ChainSpec): string =>
    JSON.stringify(spec.treatments.filter(({ bypassed }) => !bypassed).map((settings) => [settings.kind, parametersOf(settings)]));
  return a === b || sound(a) === sound(b);
}

/** The stretches of the recording that clips treat by themselves. */
export const treatedSpans = ({ clips }: TrackSound): TreatedSpan[] =>
  clips.flatMap(({ source, chain }) => (chain ? [{ source, chain }] : []));

/** Whether two arrangements of a track sound the same. */
export const sameTrackSound = (a: TrackSound, b: TrackSound): boolean =>
  a.clips === b.clips &&
  a.roomTone === b.roomTone &&
  (a.noise === b.noise || (Array.isArray(a.noise) && JSON.stringify(a.noise) === JSON.stringify(b.noise)));

export const sameSpan = (a: Span, b: Span): boolean => a.startFrame === b.startFrame && a.endFrame === b.endFrame;

/** A span that is measured, in words: overall, or the loop, or how much of them. */
export function wordsOfSpan(span: Span, whole: Span, mostFrames: number): string {
  const part = span.endFrame - span.startFrame > mostFrames ? 'first minute' : '';
  return sameSpan(span, whole) ? part || 'overall' : part ? `${part} of the loop` : 'loop';
}
