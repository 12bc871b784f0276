import type { NoisePrice, VoiceLoss } from '@euphonos/dsp';
import { useState } from 'react';
import { toast } from 'sonner';
import { formatNumber } from '../../../../components/figures.js';
import { useKeys } from '../../../../shell/use-keys.js';
import { usePrice } from '../../../../workbench/workbench-context.js';
import { useShowLoss } from '../../voice-losses.js';
import type { PanelProps } from './panel.js';
import { CHART_WIDTH } from './spectrum-chart.js';

const HEIGHT = 112;
const LOSS_RANGE_DB = [-60, -6] as const;
const TAKEN_STEPS_DB = [6, 12, 18, 24];
const LOSS_STEPS_DB = [-50, -40, -30, -20, -10];

/** What of the voice is gone, in words: common practice, no source. */
const lossWords = (db: number): string =>
  db < -35 ? 'not heard' : db < -25 ? 'hardly heard' : db < -18 ? 'heard beside the source' : 'the voice is thinned';

/**
 * Noise taken against voice lost, over the whole range of reduction, for the loop. A press on the curve goes to that
 * depth; the dashed line is where the curve bends: up to there each decibel of noise costs the voice most, from there on
 * little. The button and its key take the suggestion.
 */
export function TradeOff({ settings, set }: Pick<PanelProps, 'settings' | 'set'>) {
  const price = usePrice(settings.id!);
  const now = settings['reductionDb'] as number;
  const knee = price?.points[price.knee];
  const suggested = price?.points[price.suggested];
  useKeys('k', () => {
    if (suggested) set('reductionDb', suggested.reductionDb);
    else toast('The trade-off is still being measured; K takes the suggestion as soon as it is drawn.', { id: 'trade-off' });
  });
  if (!price || !knee || !suggested)
    return (
      <p className="m-0 mb-1 text-[12px] text-soft" role="status">
        {settings.bypassed ? 'The trade-off is measured when it is switched on.' : 'Measuring the trade-off …'}
      </p>
    );
  const most = Math.max(6, price.points[price.points.length - 1]!.noiseTakenDb);
  const x = ({ noiseTakenDb }: { readonly noiseTakenDb: number }): number => 34 + (noiseTakenDb / most) * (CHART_WIDTH - 44);
  const y = (lossDb: number): number =>
    6 +
    ((LOSS_RANGE_DB[1] - Math.max(LOSS_RANGE_DB[0], Math.min(LOSS_RANGE_DB[1], lossDb))) / (LOSS_RANGE_DB[1] - LOSS_RANGE_DB[0])) *
      (HEIGHT - 12);
  const low = Math.floor(now);
  const present = between(price.points[low]!, price.points[Math.min(price.points.length - 1, low + 1)]!, now - low);
  const goTo = (event: React.PointerEvent<SVGSVGElement>): void => {
    const box = event.currentTarget.getBoundingClientRect();
    const at = ((event.clientX - box.left) / box.width) * CHART_WIDTH;
    const nearest = price.points.reduce((best, point) => (Math.abs(x(point) - at) < Math.abs(x(best) - at) ? point : best));
    set('reductionDb', nearest.reductionDb);
  };
  return (
    <div className="mb-1.5">
      <svg
        role="img"
        aria-label={`Trade-off: ${formatNumber(present.noiseTakenDb, 1)} dB of noise taken, voice lost ${formatNumber(present.speechLossDb, 0)} dB`}
        viewBox={`0 0 ${CHART_WIDTH} ${HEIGHT + 14}`}
        className="block w-full cursor-crosshair touch-none select-none"
        onPointerDown={goTo}
      >
        <rect x={34} y={6} width={CHART_WIDTH - 44} height={HEIGHT - 12} className="fill-paper stroke-line" />
        {LOSS_STEPS_DB.map((db) => (
          <g key={db}>
            <line x1={34} x2={CHART_WIDTH - 10} y1={y(db)} y2={y(db)} className="stroke-faint" />
            <text x={30} y={y(db) + 3} textAnchor="end" className="fill-soft text-[10px]">
              {formatNumber(db, 0)}
            </text>
          </g>
        ))}
        {TAKEN_STEPS_DB.filter((db) => db < most).map((db) => (
          <text key={db} x={x({ noiseTakenDb: db })} y={HEIGHT + 8} textAnchor="middle" className="fill-soft text-[10px]">
            {db} dB
          </text>
        ))}
        <polyline
          points={price.points.map((point) => `${x(point)},${y(point.speechLossDb)}`).join(' ')}
          fill="none"
          className="stroke-removed"
          strokeWidth={1.6}
        />
        <line x1={x(knee)} x2={x(knee)} y1={6} y2={HEIGHT - 6} className="stroke-soft" strokeDasharray="2 3" />
        <circle cx={x(present)} cy={y(present.speechLossDb)} r={4.5} className="fill-result stroke-paper" strokeWidth={1.5} />
      </svg>
      <div className="flex items-baseline gap-3 text-[12px]">
        <span title="Power of the voice in what is removed, against the voice. −40 dB is next to nothing.">
          noise taken <b>{formatNumber(present.noiseTakenDb, 1)} dB</b> · voice lost <b>{formatNumber(present.speechLossDb, 0)} dB</b>,{' '}
          {lossWords(present.speechLossDb)}
        </span>
        <button
          type="button"
          className="press ml-auto shrink-0 py-0! whitespace-nowrap"
          title={`As deep as is hardly heard in the voice, 18 dB at most. The curve bends at ${knee.reductionDb} dB.`}
          onClick={() => set('reductionDb', suggested.reductionDb)}
        >
          {suggested.reductionDb} dB <span className="key">K</span>
        </button>
      </div>
      <Depth network={settings['network'] as string} />
      <Losses losses={price.losses} />
    </div>
  );
}

function between(a: NoisePrice, b: NoisePrice, share: number): NoisePrice {
  const mix = (p: number, q: number): number => p + (q - p) * share;
  return {
    reductionDb: mix(a.reductionDb, b.reductionDb),
    noiseTakenDb: mix(a.noiseTakenDb, b.noiseTakenDb),
    speechLossDb: mix(a.speechLossDb, b.speechLossDb),
  };
}

/** What depth does to the words, measured (docs/quality.md, Noise reduction): the voice lost is not the whole of it. */
function Depth({ network }: { readonly network: string }) {
  if (network === 'light') return null;
  return (
    <p
      className="m-0 text-[12px] text-soft"
      title="Two voices in six steady noises at 5 and 15 dB, ESTOI (1 is the clean voice): 0.79 at 12 dB, 0.82 at 18, 0.83 at 24, 0.84 at 36 dB. No one has listened."
    >
      Deeper, words stand out more (most from 12 to 24 dB); the room around them goes.
    </p>
  );
}

/** How many places there are where words are heard in what is removed, and a way through them. */
function Losses({ losses }: { readonly losses: readonly VoiceLoss[] }) {
  const show = useShowLoss();
  const [at, setAt] = useState(-1);
  if (losses.length === 0) return <p className="m-0 text-[12px] text-soft">No word is heard in what is removed.</p>;
  const next = (): void => {
    const index = (at + 1) % losses.length;
    setAt(index);
    show(losses[index]!);
  };
  return (
    <p className="m-0 flex items-baseline gap-2 text-[12px] text-removed">
      {losses.length === 1 ? 'At one place' : `At ${losses.length} places`} the voice is heard in what is removed.
      <button type="button" className="press py-0! text-ink" onClick={next}>
        Show {losses.length > 1 ? 'the next' : 'it'}
      </button>
    </p>
  );
}
