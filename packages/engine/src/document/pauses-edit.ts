import { parametersOf, takenPauses, treatedBreaths, treatmentOf, type TreatmentSettings } from '@euphonos/dsp';
import { Placer } from '../arrangement/places.js';
import type { ClipsEdit } from './clips-edit.js';
import type { Track } from './document.js';
import type { Span } from './span.js';

/** Room tone for pauses: the passage that it is made of, and the gain at which it meets the room around a span of the session. */
export interface PauseTone {
  readonly passage: Span;
  readonly gainDb: (span: Span) => number;
}

const counted = (count: number): string => (count === 1 ? '1 pause' : `${count} pauses`);

/**
 * The edit that does to the pauses of a treatment what its settings say: cut and close up, cut leaving a gap, shorten,
 * or fill with room tone. Null when nothing is to be done: they are lowered while they are heard, or none is long enough.
 */
export function pausesEdit(
  track: Pick<Track, 'id' | 'clips'>,
  settings: TreatmentSettings,
  sampleRateHz: number,
  tone: PauseTone | null,
): ClipsEdit | null {
  const way = settings['way'] as string;
  if (way === 'lower') return null;
  const spans = placed(track, takenPauses(parametersOf(settings) as never), sampleRateHz);
  if (spans.length === 0) return null;
  const word = treatmentOf(settings.kind).choices!['way']!.options.find(({ value }) => value === way)!.title;
  const title = `${counted(spans.length)}: ${word}`;
  const of = { trackId: track.id, title };
  if (way !== 'tone') return { type: 'cut-spans', ...of, spans, close: way !== 'gap' };
  return tone && filled(of, spans, tone);
}

/** The edit that puts room tone in the place of the breaths of a treatment; null when it is not set to, or there is nothing to do. */
export function breathsEdit(
  track: Pick<Track, 'id' | 'clips'>,
  settings: TreatmentSettings,
  sampleRateHz: number,
  tone: PauseTone | null,
): ClipsEdit | null {
  if (settings['way'] !== 'tone' || !tone) return null;
  const spans = placed(track, treatedBreaths(parametersOf(settings) as never), sampleRateHz);
  return spans.length === 0
    ? null
    : filled({ trackId: track.id, title: `${spans.length === 1 ? '1 breath' : `${spans.length} breaths`}: room tone` }, spans, tone);
}

interface Seconds {
  readonly startSeconds: number;
  readonly endSeconds: number;
}

function placed({ clips }: Pick<Track, 'clips'>, spans: readonly Seconds[], sampleRateHz: number): Span[] {
  const placer = new Placer(clips);
  return spans.flatMap(({ startSeconds, endSeconds }) =>
    placer.placesOf({ startFrame: Math.round(startSeconds * sampleRateHz), endFrame: Math.round(endSeconds * sampleRateHz) }),
  );
}

const filled = (of: { readonly trackId: string; readonly title: string }, spans: readonly Span[], tone: PauseTone): ClipsEdit => ({
  type: 'fill-spans',
  ...of,
  roomTone: tone.passage,
  spans: spans.map((span) => ({ ...span, sound: { kind: 'room-tone', gainDb: tone.gainDb(span) } })),
});
