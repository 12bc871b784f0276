import { asToneBands, cascadeMagnitude, toneSection, treatmentOf, type ListRow, type ToneBand } from '@euphonos/dsp';
import { Ear, Plus, X } from 'lucide-react';
import { useRef, useState } from 'react';
import { Choice } from '../../../../components/choice.js';
import { formatNumber } from '../../../../components/figures.js';
import { ParameterRuler } from '../../../../components/parameter-ruler.js';
import { changed } from '../../../../store/listening-slice.js';
import { useApp, useAppDispatch } from '../../../../store/store.js';
import type { HzAxis } from '../../../../drawing/hz-axis.js';
import { useWorkbench } from '../../../../workbench/workbench-context.js';
import type { PanelProps } from './panel.js';
import { ToneMatch } from './tone-match.js';
import { CHART_WIDTH, hzToX, SpectrumChart, xToHz } from './spectrum-chart.js';

const HEIGHT = 150;
const RANGE_DB = 18;
const GRAB_PX = 12;
const hasGain = ({ shape }: ToneBand): boolean => /shelf|bell/.test(shape);
const list = treatmentOf('tone').lists!['bands']!;
const shapes = list.choices!['shape']!.options;

/** Bands on the spectrum: handles to drag, a curve of what they do together, and a sweep by ear. */
export function TonePanel({ track, settings, set }: PanelProps) {
  const { sampleRateHz } = useWorkbench();
  const dispatch = useAppDispatch();
  const sweeping = useApp(({ listening }) => listening.aside?.bandHz);
  const [chosen, setChosen] = useState(0);
  const [sweep, setSweep] = useState(false);
  const grabbed = useRef(-1);
  const bands = asToneBands(settings['bands'] as readonly ListRow[]);
  const axis: HzAxis = { lowHz: 30, highHz: Math.min(20000, sampleRateHz / 2) };
  const y = (db: number): number => HEIGHT / 2 - (Math.max(-RANGE_DB, Math.min(RANGE_DB, db)) / RANGE_DB) * (HEIGHT / 2);
  const write = (next: readonly ToneBand[]): void => set('bands', next as unknown as readonly ListRow[]);
  const change = (index: number, part: Partial<ToneBand>): void =>
    write(bands.map((band, i) => (i === index ? { ...band, ...part } : band)));
  const at = (x: number, down: number): Partial<ToneBand> => ({
    frequencyHz: Math.round(Math.max(20, Math.min(20000, xToHz(axis, x)))),
    gainDb: Math.round(((HEIGHT / 2 - down) / (HEIGHT / 2)) * RANGE_DB * 10) / 10,
  });
  const onPointer = (type: 'down' | 'move' | 'up', x: number, down: number): void => {
    if (sweep) {
      dispatch(changed({ aside: type === 'up' ? null : { treatmentId: settings.id!, bandHz: xToHz(axis, x) } }));
      return;
    }
    if (type === 'down') {
      const near = bands
        .map((band, i) => ({ i, off: Math.hypot(hzToX(axis, band.frequencyHz) - x, y(hasGain(band) ? band.gainDb : 0) - down) }))
        .sort((a, b) => a.off - b.off)[0];
      grabbed.current = near && near.off < GRAB_PX ? near.i : -1;
      if (grabbed.current >= 0) setChosen(grabbed.current);
    } else if (type === 'move' && grabbed.current >= 0) {
      const band = bands[grabbed.current]!;
      const { frequencyHz, gainDb } = at(x, down);
      change(
        grabbed.current,
        hasGain(band) ? { frequencyHz: frequencyHz!, gainDb: Math.max(-24, Math.min(24, gainDb!)) } : { frequencyHz: frequencyHz! },
      );
    } else if (type === 'up') grabbed.current = -1;
  };
  const add = (shape: ToneBand['shape']): void => {
    if (bands.length >= list.most) return;
    write([
      ...bands,
      {
        shape,
        frequencyHz: { 'low-shelf': 150, 'high-shelf': 8000, 'low-pass': 12000 }[shape as string] ?? 1000,
        gainDb: hasGain({ shape } as ToneBand) ? -3 : 0,
        q: /shelf|pass/.test(shape) ? 0.7 : shape === 'notch' ? 20 : 1,
      },
    ]);
    setChosen(bands.length);
  };
  const band = bands[chosen];
  return (
    <div className="mb-1">
      <SpectrumChart axis={axis} height={HEIGHT} label="Tone over the spectrum" onPointer={onPointer}>
        <line x1={0} x2={CHART_WIDTH} y1={HEIGHT / 2} y2={HEIGHT / 2} className="stroke-line" />
        <path d={curve(bands, axis, sampleRateHz, y)} fill="none" className="stroke-ink" strokeWidth={1.5} />
        {bands.map((each, i) => (
          <g key={i} className={i === chosen ? 'text-ink' : 'text-soft'}>
            <rect
              x={hzToX(axis, each.frequencyHz) - 5}
              y={y(hasGain(each) ? each.gainDb : 0) - 5}
              width={10}
              height={10}
              className={`cursor-move stroke-current ${i === chosen ? 'fill-ink' : 'fill-sheet'}`}
              strokeWidth={1.5}
            />
          </g>
        ))}
        {sweeping !== undefined && (
          <rect
            x={hzToX(axis, sweeping / 1.13)}
            width={hzToX(axis, sweeping * 1.13) - hzToX(axis, sweeping / 1.13)}
            y={0}
            height={HEIGHT}
            className="fill-focus/25"
          />
        )}
      </SpectrumChart>
      <div className="mb-1 flex flex-wrap items-center gap-1.5 text-[12px]">
        {shapes.map(({ value, title, sentence }) => (
          <button
            key={value}
            type="button"
            className="press flex items-center gap-0.5 px-1.5! py-0!"
            title={sentence}
            onClick={() => add(value as ToneBand['shape'])}
          >
            <Plus size={11} /> {title}
          </button>
        ))}
        <button
          type="button"
          aria-pressed={sweep}
          className={`press ml-auto flex items-center gap-1 py-0! ${sweep ? 'border-focus! text-focus!' : ''}`}
          title="Hold on the chart to hear a narrow band alone"
          onClick={() => setSweep(!sweep)}
        >
          <Ear size={12} /> sweep
        </button>
      </div>
      {band ? (
        <div className="border-t border-faint pt-1">
          <div className="flex items-center gap-2 text-[13px]">
            <Choice
              label="Shape"
              value={band.shape}
              choices={shapes
                .filter(({ value }) => /shelf|bell|notch/.test(value) || value === band.shape)
                .map(({ value, title, sentence }) => ({ value: value as ToneBand['shape'], title, hint: sentence }))}
              onChange={(shape) => change(chosen, { shape })}
            />
            <button
              type="button"
              aria-label="Remove this band"
              className="ml-auto text-soft hover:text-removed"
              onClick={() => (write(bands.filter((_, i) => i !== chosen)), setChosen(Math.max(0, chosen - 1)))}
            >
              <X size={14} />
            </button>
          </div>
          {Object.entries(list.fields!)
            .filter(([name]) => name !== 'gainDb' || hasGain(band))
            .map(([name, spec]) => (
              <ParameterRuler
                key={name}
                spec={spec}
                value={band[name as 'q']}
                signed={name === 'gainDb'}
                onChange={(value) => change(chosen, { [name]: value })}
              />
            ))}
        </div>
      ) : (
        <p className="m-0 text-[12px] text-soft">
          Add a band, then drag its handle. With sweep, hold on the chart to find by ear what is too much.
        </p>
      )}
      {track.chain.treatments.some(({ id }) => id === settings.id) && <ToneMatch track={track} treatmentId={settings.id!} onTake={write} />}
      {bands.length > 1 && (
        <p className="m-0 pt-1 text-[12px] text-soft">
          {bands.length} bands; the chosen one is {formatNumber(band?.frequencyHz ?? 0, 0)} Hz.
        </p>
      )}
    </div>
  );
}

function curve(bands: readonly ToneBand[], axis: HzAxis, sampleRateHz: number, y: (db: number) => number): string {
  const sections = bands.map((band) => toneSection(band, sampleRateHz));
  let path = '';
  for (let x = 0; x <= CHART_WIDTH; x += 2) {
    const hz = Math.min(xToHz(axis, x), sampleRateHz * 0.499);
    path += `${x === 0 ? 'M' : 'L'}${x} ${y(20 * Math.log10(cascadeMagnitude(sections, hz, sampleRateHz) + 1e-9)).toFixed(1)}`;
  }
  return path;
}
