import { defaultTreatment, type TreatmentSettings } from '@euphonos/dsp';
import { depthFor, talkRows, type Track } from '@euphonos/engine';
import { Link } from 'react-router';
import { formatNumber, setMinus } from '../../components/figures.js';
import { useKeys } from '../../shell/use-keys.js';
import { changed } from '../../store/listening-slice.js';
import { edited, trackChosen } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';
import { useKeying, useSpeechInMix } from './use-speech-in-mix.js';

interface Props {
  readonly bed: Track;
  readonly wishLu: number;
}

/** How far speech stands above a bed while somebody speaks, and the key that brings it there. */
export function BedLine({ bed, wishLu }: Props) {
  const dispatch = useAppDispatch();
  const sessionId = useApp(({ session }) => session!.id);
  const { speakers, over, noise, stale, trouble } = useSpeechInMix(bed);
  const settings = bed.chain.treatments.find(({ kind }) => kind === 'under-speech');
  const { keyed, moved, counted } = useKeying(settings, speakers);
  const works = settings !== undefined && !settings.bypassed && counted > 0;
  const apart = over?.overLu ?? null;
  const off = apart !== null && Math.abs(apart - wishLu) > 0.5;
  const take = (): void => {
    if (!speakers || apart === null || stale) return;
    const chosen = works ? keyed : new Set(speakers.map(({ track }) => track.id));
    const made = {
      ...(settings ?? defaultTreatment('under-speech')),
      bypassed: false,
      talk: talkRows(speakers.filter(({ track }) => chosen.has(track.id)).map(({ talk }) => talk)),
      depthDb: depthFor(wishLu, apart, works ? (settings['depthDb'] as number) : 0),
    } as TreatmentSettings;
    if (settings)
      dispatch(
        edited({
          type: 'set-parameters',
          trackId: bed.id,
          treatmentId: settings.id!,
          values: { talk: made['talk'] as never, depthDb: made['depthDb'] as number },
        }),
      );
    else
      dispatch(
        edited({
          type: 'take-suggestion',
          trackId: bed.id,
          treatmentId: crypto.randomUUID(),
          title: `${bed.name} down under speech`,
          settings: made,
        }),
      );
  };
  useKeys('u', take);
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 pb-2 text-[13px]" data-bed={stale ? 'coming' : 'ready'}>
      <span>
        {trouble ??
          (apart === null ? (
            <span className="text-soft">
              {speakers ? `Nobody is heard speaking over ${bed.name}.` : `Listening who speaks over ${bed.name} …`}
            </span>
          ) : (
            <>
              Speech stands{' '}
              <b className={off ? '' : 'text-result'} data-over>
                {setMinus(formatNumber(apart, 1))} LU
              </b>{' '}
              above {bed.name}
              {works && `, which goes down by ${formatNumber(settings['depthDb'] as number, 1)} dB while somebody speaks`}
              {stale && ' …'}
            </>
          ))}
      </span>
      {apart !== null && (moved || (works ? off : apart < wishLu - 0.5)) && (
        <button type="button" className="press px-1.5! py-0! text-[12px]" disabled={stale} onClick={take}>
          {moved ? 'Speech has moved: take it again' : works ? `Make it ${wishLu} LU` : `Turn it down under speech, to ${wishLu} LU`}{' '}
          <span className="key">U</span>
        </button>
      )}
      {noise && (
        <span
          className="text-[12px] text-soft"
          data-noise-under
          title={noise.heard.map(({ hz, overDb }) => `${hz} Hz: ${formatNumber(overDb, 1)} dB over what would hide it`).join('\n')}
        >
          noise {formatNumber(Math.abs(noise.underLu), 0)} LU {noise.underLu < 0 ? 'over' : 'under'} it
          {noise.heard.length === 0
            ? ', hidden'
            : `, heard in ${noise.heard.length} third octaves, most at ${noise.heard.reduce((a, b) => (b.overDb > a.overDb ? b : a)).hz} Hz`}
        </span>
      )}
      {settings && (
        <Link
          to={`/sessions/${sessionId}/treat`}
          className="text-[12px] text-soft hover:text-ink"
          onClick={() => {
            dispatch(trackChosen(bed.id));
            dispatch(changed({ openTreatmentId: settings.id! }));
          }}
        >
          its times
        </Link>
      )}
    </div>
  );
}
