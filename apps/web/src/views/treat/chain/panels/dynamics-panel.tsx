import { useSyncExternalStore } from 'react';
import { formatDb, formatNumber, setMinus } from '../../../../components/figures.js';
import { WHOLE } from '@euphonos/engine';
import { useApp } from '../../../../store/store.js';
import { useChainOwner } from '../chain-owner.js';
import { useEffectOf, useWorkbench } from '../../../../workbench/workbench-context.js';
import { GainToLine } from './gain-to-line.js';
import { Places } from './places.js';
import type { PanelProps } from './panel.js';

/** Peaks of talk stand so far over the level of its words: a compressor begins there, and touches about every second word. Common practice, no source. */
const THRESHOLD_OVER_WORDS_DB = 6;

const half = (db: number): number => Math.round(2 * db) / 2;

/** How far levels are moved, how often, what of the punch it costs, and settings that suit what was measured. */
export function DynamicsPanel({ track, settings, set }: PanelProps) {
  const effect = useEffectOf(settings.id!);
  const workbench = useWorkbench();
  const ofTrack = useSyncExternalStore(workbench.subscribe, () => workbench.figures?.source.integratedLufs ?? null);
  const targetLufs = useApp(({ session }) => session?.history?.present.target.integratedLufs ?? null);
  // A track stays as loud as it is; the whole goes where the delivery wants it.
  const onWhole = useChainOwner(track).trackId === WHOLE;
  const wishedLufs = onWhole ? targetLufs : ofTrack;
  if (!effect?.dynamics || settings.bypassed)
    return (
      <p className="m-0 mb-1 text-[12px] text-soft">
        {settings.bypassed ? 'Words are measured when it is switched on.' : 'Measuring the words …'}
      </p>
    );
  const { mostDownDb, mostUpDb, typicalDb, share, crestBeforeDb, crestAfterDb } = effect.dynamics;
  const makeUpDb = settings['makeUpDb'] as number | undefined;
  const suggestions =
    settings.kind === 'compressor'
      ? [
          effect.wordsDbfs === null
            ? null
            : {
                name: 'thresholdDb',
                value: half(effect.wordsDbfs + THRESHOLD_OVER_WORDS_DB),
                words: 'Threshold at',
                why: 'Where peaks of the words stand over their level',
              },
          effect.wordsDb === null || Math.abs(effect.wordsDb) < 0.1
            ? null
            : {
                name: 'makeUpDb',
                value: Math.round(10 * (makeUpDb! - effect.wordsDb)) / 10,
                words: 'Make-up',
                why: 'So that words are as loud as before',
              },
        ]
      : settings.kind === 'levelling' && wishedLufs !== null && half(wishedLufs) !== settings['targetLufs']
        ? [
            {
              name: 'targetLufs',
              value: half(wishedLufs),
              words: 'Speech at',
              why: onWhole
                ? 'Loudness of the delivery’s target'
                : 'As loud as it is on the whole: only phrases among each other get louder or softer',
            },
          ]
        : [];
  const far = mostUpDb > -mostDownDb ? mostUpDb : mostDownDb;
  return (
    <div className="mb-1 text-[12px]" data-dynamics>
      <p className="m-0">
        {share === 0 ? (
          'No word is moved here.'
        ) : (
          <>
            <b>{formatNumber(100 * share, 0)} %</b> of the words, typically by <b>{setMinus(formatDb(typicalDb, 'dB'))}</b>, at most{' '}
            <b>{setMinus(formatDb(far, 'dB'))}</b>
          </>
        )}
      </p>
      <p className="m-0 text-soft" title="Highest peak over the mean level of the words: how much punch is left">
        Peaks over words {formatNumber(crestBeforeDb, 1)} → <span className="text-result">{formatNumber(crestAfterDb, 1)} dB</span>
      </p>
      <div className="flex flex-wrap gap-2 pt-1">
        {suggestions.map(
          (one) =>
            one && (
              <button key={one.name} type="button" className="press py-0!" title={one.why} onClick={() => set(one.name, one.value)}>
                {one.words} {setMinus(formatNumber(one.value, 1))}
              </button>
            ),
        )}
        {settings.kind === 'levelling' && !onWhole && <GainToLine track={track} settings={settings} />}
      </div>
      {settings.kind === 'limiter' && <Places events={effect.events} />}
    </div>
  );
}
