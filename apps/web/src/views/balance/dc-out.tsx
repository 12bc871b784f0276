import { defaultTreatment, LEAST_OFFSET, type TreatmentSettings } from '@euphonos/dsp';
import type { BalanceLine, SessionDocument } from '@euphonos/engine';
import { formatNumber } from '../../components/figures.js';
import { useKeys } from '../../shell/use-keys.js';
import { edited } from '../../store/session-slice.js';
import { useAppDispatch } from '../../store/store.js';

interface Props {
  readonly document: SessionDocument;
  /** What is looked at: the chosen lines, or all tracks. */
  readonly lines: readonly BalanceLine[];
}

/** Says which of them have a constant offset, and takes it out of their tracks: one step. */
export function DcOut({ document, lines }: Props) {
  const dispatch = useAppDispatch();
  const offset = lines.filter(({ after }) => Math.abs(after.dcOffset) >= LEAST_OFFSET);
  const tracks = document.tracks.filter(({ id }) => offset.some(({ trackId }) => trackId === id));
  const take = (): void => {
    if (tracks.length === 0) return;
    const items = tracks.map(({ id, chain }) => {
      const known = chain.treatments.find(({ kind }) => kind === 'channels');
      const settings = { ...(known ?? defaultTreatment('channels')), bypassed: false, offset: 'out' } as TreatmentSettings;
      return { trackId: id, treatmentId: known?.id ?? crypto.randomUUID(), settings };
    });
    dispatch(edited({ type: 'take-suggestions', title: `Take out the DC offset of ${tracks.map(({ name }) => name).join(', ')}`, items }));
  };
  useKeys('shift_d', take);
  if (tracks.length === 0) return null;
  const most = Math.max(...offset.map(({ after }) => Math.abs(after.dcOffset)));
  return (
    <button
      type="button"
      className="press px-1.5! py-0! text-[12px]"
      data-dc={tracks.length}
      title={`A constant offset of up to ${formatNumber(100 * most, 1)} % of full scale: it eats headroom and clicks at every edit`}
      onClick={take}
    >
      DC out of {tracks.length === 1 ? tracks[0]!.name : `${tracks.length} tracks`} <span className="key">⇧D</span>
    </button>
  );
}
