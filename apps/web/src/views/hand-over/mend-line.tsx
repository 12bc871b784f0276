import type { CheckLine } from '@euphonos/engine';
import { WHOLE } from '@euphonos/engine';
import { Link } from 'react-router';
import { setMinus } from '../../components/figures.js';
import { changed } from '../../store/listening-slice.js';
import { activeTrack, edited } from '../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../store/store.js';

const LOWER_DB = 1;

/** What would mend a line that failed, a click away. */
export function MendLine({ mend }: { readonly mend: NonNullable<CheckLine['mend']> }) {
  const id = useApp(({ session }) => session!.id);
  const document = useApp(({ session }) => session!.history!.present);
  const track = useApp(({ session }) => activeTrack(session))!;
  const dispatch = useAppDispatch();
  const way = 'shrink-0 text-focus underline hover:no-underline';
  const reduction = track.chain.treatments.find(({ kind }) => kind === mend.by);
  const levelled = document.chain.treatments.some(({ kind }) => kind === 'levelling');
  return (
    <div className="flex items-baseline gap-2 pb-1.5 text-[12px]" data-mend={mend.by}>
      <span className="text-soft">{setMinus(mend.words)}</span>
      {(mend.by === 'noise-reduction' || mend.by === 'gate') && (
        <Link className={way} to={`/sessions/${id}/treat`} onClick={() => dispatch(changed({ openTreatmentId: reduction?.id ?? null }))}>
          {mend.by === 'gate' ? 'To the gate' : 'To the noise reduction'} of {track.name}
        </Link>
      )}
      {mend.by === 'levelling' && (
        <Link
          className={way}
          to={`/sessions/${id}/balance`}
          onClick={() => {
            if (!levelled) dispatch(edited({ type: 'add-treatment', trackId: WHOLE, kind: 'levelling', treatmentId: crypto.randomUUID() }));
          }}
        >
          {levelled ? 'To the levelling of the whole' : 'Level the whole'}
        </Link>
      )}
      {mend.by === 'limiter' && (
        <button
          type="button"
          className={way}
          onClick={() =>
            dispatch(edited({ type: 'set-target', target: { ...document.target, ceilingDbtp: document.target.ceilingDbtp - LOWER_DB } }))
          }
        >
          Ceiling {LOWER_DB} dB lower
        </button>
      )}
    </div>
  );
}
