import type { ListRow } from '@euphonos/dsp';
import { formatNumber, formatTime } from '../../../../components/figures.js';
import { useEffectOf, useWorkbench } from '../../../../workbench/workbench-context.js';
import type { PanelProps } from './panel.js';

const SHOWN = 60;

/** The clicks found in what is measured now: each can be looked at, or excepted. */
export function ClicksPanel({ settings, set }: PanelProps) {
  const { view, player, sampleRateHz, places } = useWorkbench();
  const effect = useEffectOf(settings.id!);
  const excepted = (settings['exceptions'] as readonly ListRow[]).map((row) => row['atSeconds'] as number);
  /** A place of the session, in seconds. */
  const show = (atSeconds: number | undefined): void => {
    if (atSeconds === undefined) return;
    const frame = atSeconds * sampleRateHz;
    view.show(frame - 0.02 * sampleRateHz, frame + 0.03 * sampleRateHz);
    player.seek(Math.max(0, frame - 0.4 * sampleRateHz));
  };
  const placed = (atSeconds: number): number | undefined => {
    const [place] = places.ofSeconds({ startSeconds: atSeconds, endSeconds: atSeconds });
    return place && place.startFrame / sampleRateHz;
  };
  const write = (seconds: readonly number[]): void =>
    set(
      'exceptions',
      seconds.map((atSeconds) => ({ atSeconds })),
    );
  const except = (frame: number): void => {
    const recorded = places.recordedFrame(Math.round(frame));
    if (recorded !== null) write([...excepted, Math.round((recorded / sampleRateHz) * 1000) / 1000]);
  };
  const events = effect?.events ?? [];
  return (
    <div className="mt-1 max-h-[168px] overflow-y-auto text-[12px]" aria-label="Clicks found">
      {events.slice(0, SHOWN).map(({ startFrame, endFrame, amountDb }) => {
        const at = startFrame / sampleRateHz;
        return (
          <div key={startFrame} className="flex items-center gap-3 border-t border-faint py-0.5">
            <button type="button" className="underline decoration-dotted" title="Show it" onClick={() => show(at)}>
              {formatTime(at, 3)}
            </button>
            <span className="text-soft">
              {formatNumber(((endFrame - startFrame) / sampleRateHz) * 1000, 1)} ms · {formatNumber(amountDb, 0)} dBFS
            </span>
            <button type="button" className="ml-auto text-soft hover:text-removed" onClick={() => except((startFrame + endFrame) / 2)}>
              leave it
            </button>
          </div>
        );
      })}
      {events.length > SHOWN && <p className="m-0 text-soft">and {events.length - SHOWN} more</p>}
      {events.length === 0 && effect && <p className="m-0 text-soft">Nothing stands out here at this sensitivity.</p>}
      {excepted.map((at) => (
        <div key={at} className="flex items-center gap-3 border-t border-faint py-0.5 text-soft">
          <button type="button" className="underline decoration-dotted" onClick={() => show(placed(at))}>
            {formatTime(placed(at) ?? at, 3)}
          </button>{' '}
          {placed(at) === undefined ? 'cut' : 'excepted'}
          <button type="button" className="ml-auto hover:text-ink" onClick={() => write(excepted.filter((other) => other !== at))}>
            mend it again
          </button>
        </div>
      ))}
    </div>
  );
}
