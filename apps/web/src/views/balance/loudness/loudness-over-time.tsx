import { courseWithin, rangeOf } from '@euphonos/dsp';
import { PEAK_STEP_SECONDS, rulePlaces, speechBand, type SessionDocument } from '@euphonos/engine';
import { useMemo, useState, type ReactNode } from 'react';
import { Choice } from '../../../components/choice.js';
import { formatNumber, formatTime } from '../../../components/figures.js';
import { useApp } from '../../../store/store.js';
import type { Course } from './draw-loudness.js';
import { LoudnessLine } from './loudness-line.js';
import { lastOf, lineOf, MEASURES, type Measure } from './measures.js';
import { RulePlaces } from './rule-places.js';
import { scopeOf } from '../../../workbench/scope.js';
import { useLoudness } from './use-loudness.js';

interface Props {
  readonly document: SessionDocument;
  /** Lines of the table that are chosen: loudness is shown of these, or of the mix. */
  readonly chosen: ReadonlySet<string>;
  readonly heading: ReactNode;
}

/** Loudness of what is chosen over time, with its figures, of a selected stretch too; places that break a rule by a key. */
export function LoudnessOverTime({ document, chosen, heading }: Props) {
  const { tracks, chain, wholeNoise, target, sampleRateHz } = document;
  const scope = useMemo(
    () => scopeOf(document, chosen),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a mark or a target is nothing to the sound
    [tracks, chain, wholeNoise, chosen],
  );
  const { loudness, stale, trouble } = useLoudness(scope);
  const [measure, setMeasure] = useState<Measure>('short-term');
  const selection = useApp(({ listening }) => listening.selection);
  const window = useMemo(
    () => ({ fromSeconds: scope.span.startFrame / sampleRateHz, toSeconds: scope.span.endFrame / sampleRateHz }),
    [scope, sampleRateHz],
  );
  const figuresFrom = selection ? selection.startFrame / sampleRateHz : window.fromSeconds;
  const figuresTo = selection ? selection.endFrame / sampleRateHz : window.toSeconds;
  const whole = chosen.size === 0;
  const course = useMemo((): Course | null => {
    if (!loudness) return null;
    const line = (which: 'before' | 'after', of: Measure) => lineOf(loudness[which], of, figuresFrom, figuresTo);
    return {
      before: line('before', measure),
      after: line('after', measure),
      soFar: measure === 'so far' ? null : line('after', 'so far'),
      // A part of the mix has no target of its own.
      places: whole ? rulePlaces(loudness.after, loudness.peaksDbtp, target) : [],
    };
  }, [loudness, measure, figuresFrom, figuresTo, whole, target]);
  const figures = useMemo(() => {
    if (!loudness) return null;
    const within = (which: 'before' | 'after') => courseWithin(loudness[which], figuresFrom, figuresTo);
    const so = (which: 'before' | 'after') => lastOf(lineOf(loudness[which], 'so far', figuresFrom, figuresTo));
    const peaks = loudness.peaksDbtp.slice(Math.floor(figuresFrom / PEAK_STEP_SECONDS), Math.ceil(figuresTo / PEAK_STEP_SECONDS));
    return { before: so('before'), after: so('after'), rangeLu: rangeOf(within('after')), dbtp: Math.max(...peaks, -100) };
  }, [loudness, figuresFrom, figuresTo]);
  const band = useMemo(() => speechBand(target), [target]);
  const lufs = (value: number | null): string => (value === null ? '–' : formatNumber(value, 1));
  return (
    <>
      <div className="flex items-baseline gap-3 pt-1 pb-1">
        {heading}
        <span className="shrink-0 text-[12px]">
          <Choice label="Loudness over time" value={measure} onChange={setMeasure} choices={MEASURES} />
        </span>
        <span
          className="truncate text-[12px] text-soft"
          data-scope
          title={`Graphite: as recorded. Teal: ${whole ? 'through everything' : 'as it comes to the mix, before the chain on the whole'}. Dotted: integrated so far. Blue: as it is heard. Drag selects, L loops.`}
        >
          of {scope.words}
          {selection && `, ${formatTime(figuresFrom, 1)}–${formatTime(figuresTo, 1)}`}
        </span>
        {!figures && trouble && (
          <span role="alert" className="ml-auto min-w-0 truncate text-[13px] text-removed" title={trouble} data-loudness-trouble>
            not measured, asked for again: {trouble}
          </span>
        )}
        {figures && (
          <span className="ml-auto shrink-0 text-[13px]" data-mix>
            {stale ? 'measuring … ' : ''}
            <span className="text-soft">{lufs(figures.before)} → </span>
            <b className="text-result">{lufs(figures.after)} LUFS</b>
            <span className="text-soft"> · range {lufs(figures.rangeLu)} LU · </span>
            <span className={figures.dbtp > target.ceilingDbtp ? 'text-removed' : 'text-soft'}>
              {figures.dbtp <= -100 ? '–' : `${formatNumber(figures.dbtp, 1)} dBTP`}
            </span>
            <RulePlaces places={course?.places ?? []} />
          </span>
        )}
      </div>
      <div className="min-h-[110px] grow">
        <LoudnessLine course={course} measure={measure} target={band} window={window} />
      </div>
      <div className="flex justify-between pt-1 text-[12px] text-soft">
        <span>{formatTime(window.fromSeconds, 0)}</span>
        <span>{formatTime(window.toSeconds, 0)}</span>
      </div>
    </>
  );
}
