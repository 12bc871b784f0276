import { nameOfFile } from '@euphonos/contracts';
import { noiseSpans, partAt, spanFrames, type Track } from '@euphonos/engine';
import { ChevronLeft, ChevronRight, Library } from 'lucide-react';
import { useState } from 'react';
import { formatTime, setMinus } from '../../../components/figures.js';
import { Choice } from '../../../components/choice.js';
import { edited } from '../../../store/session-slice.js';
import { useApp, useAppDispatch } from '../../../store/store.js';
import { useProfile, useWorkbench } from '../../../workbench/workbench-context.js';
import { passageInWords } from '@euphonos/engine';
import { ProfilesDialog } from '../../profiles/profiles-dialog.js';
import { useCandidates } from '../use-candidates.js';
import { usePassages } from '../use-passages.js';

/** Where the noise profile comes from, or how to get one. */
export function NoiseSource({ track }: { readonly track: Track }) {
  const [kept, setKept] = useState(false);
  const { sampleRateHz, view, places } = useWorkbench();
  const profile = useProfile();
  const spans = noiseSpans(track);
  const coming = track.noise !== null && profile === null;
  return (
    <div className="mb-1.5 text-[12px]" data-profile={track.noise ? (coming ? 'coming' : 'ready') : 'none'}>
      <div className={`flex items-baseline gap-2 ${track.noise ? '' : 'rounded-sheet border border-dashed border-removed px-2 py-1'}`}>
        <span className="min-w-0 grow">
          {track.noise === null && (
            <>
              No noise profile yet, so it does nothing. Take a passage below, or drag over one and press <span className="key">N</span>.
            </>
          )}
          {track.noise?.kind === 'kept' && (
            <>
              {coming ? 'Reading' : 'Profile'} <b className="text-removed">{track.noise.name}</b>, kept
            </>
          )}
          {track.noise?.kind === 'passages' && (
            <>
              {coming ? 'Taking the profile from' : 'Profile from'}{' '}
              {spans.map((span, i) => (
                <span key={span.startFrame}>
                  {i > 0 && ', '}
                  <button
                    type="button"
                    className="text-removed underline decoration-dotted"
                    title="Show it"
                    onClick={() =>
                      places
                        .of(span)
                        .slice(0, 1)
                        .forEach(({ startFrame, endFrame }) => view.show(startFrame, endFrame))
                    }
                  >
                    {formatTime((places.of(span)[0] ?? span).startFrame / sampleRateHz, 2)}, {(spanFrames(span) / sampleRateHz).toFixed(2)}{' '}
                    s
                  </button>
                </span>
              ))}
            </>
          )}
        </span>
        <button
          type="button"
          className="press flex shrink-0 items-center gap-1 px-1.5! py-0!"
          title="Keep this profile, or use one that was kept"
          onClick={() => setKept(true)}
        >
          <Library size={12} /> Profiles
        </button>
      </div>
      {track.noise?.kind === 'passages' && track.reel.length > 1 && <ForWhich track={track} />}
      <Candidates taken={track.noise !== null} />
      <ProfilesDialog open={kept} track={track} onClose={() => setKept(false)} />
    </div>
  );
}

/** Several recordings on a track: one noise for all of them, or each its own; and which one counts where. */
function ForWhich({ track }: { readonly track: Track }) {
  const dispatch = useAppDispatch();
  const recordings = useApp(({ session }) => session!.recordings);
  const { noise, reel } = track;
  if (noise?.kind !== 'passages') return null;
  const { spans } = noise;
  const counted = reel.map((part) => ({
    name: nameOfFile(recordings.find(({ id }) => id === part.recordingId)?.fileName ?? 'a recording'),
    own: spans.filter(({ startFrame }) => partAt(reel, startFrame) === part).length,
  }));
  const choose = (value: string): void => {
    const next = { kind: 'passages' as const, spans, ...(value === 'each' ? { each: true as const } : {}) };
    dispatch(edited({ type: 'set-noise', trackId: track.id, noise: next }));
  };
  return (
    <div className="pt-1">
      <Choice
        label="Noise of the recordings"
        value={noise.each ? 'each' : 'one'}
        onChange={choose}
        choices={[
          { value: 'one', title: 'one noise for all', hint: 'All passages together, wherever it sounds' },
          {
            value: 'each',
            title: 'each recording its own',
            hint: 'Each is weighed by the passages that lie in it; one without any by all of them',
          },
        ]}
      />
      {noise.each && (
        <p className="m-0 text-soft" data-noise-of-each>
          {counted.map(({ name, own }, i) => (
            <span key={i}>
              {i > 0 && ' · '}
              {name}:{' '}
              <span className={own > 0 ? 'text-removed' : ''}>
                {own === 0 ? 'that of all' : own === 1 ? 'its own' : `its own, ${own} passages`}
              </span>
            </span>
          ))}
        </p>
      )}
    </div>
  );
}

/** The passages that were found, one at a time, best first. */
function Candidates({ taken }: { readonly taken: boolean }) {
  const { candidates, at, step } = useCandidates();
  const { takeNoise, audition } = usePassages();
  const selected = useApp(({ listening }) => listening.selection !== null);
  const auditioning = useApp(({ listening }) => listening.auditioning);
  if (candidates === null) return <p className="m-0 pt-1 text-soft">The survey is still looking for passages with noise alone.</p>;
  if (candidates.length === 0)
    return taken ? null : <p className="m-0 pt-1 text-soft">The survey found no half second with noise alone: let the noise be tracked.</p>;
  const chosen = at !== null && selected ? candidates[at] : undefined;
  return (
    <div className="flex items-baseline gap-1.5 pt-1">
      <button type="button" aria-label="Passage before" className="text-soft hover:text-ink" onClick={() => step(-1)}>
        <ChevronLeft size={13} className="translate-y-[2px]" />
      </button>
      <button type="button" aria-label="Next passage" className="text-soft hover:text-ink" onClick={() => step(1)}>
        <ChevronRight size={13} className="translate-y-[2px]" />
      </button>
      {chosen ? (
        <>
          <span className="min-w-0 grow" data-candidate={at}>
            <b>{at! + 1}</b> of {candidates.length} found: {setMinus(passageInWords(chosen.passage))}
          </span>
          <button
            type="button"
            aria-pressed={auditioning}
            className={`press shrink-0 px-1.5! py-0! ${auditioning ? 'border-focus! text-focus!' : ''}`}
            onClick={audition}
          >
            Hear <span className="key">H</span>
          </button>
          <button type="button" className="press shrink-0 px-1.5! py-0!" onClick={() => void takeNoise()}>
            Take <span className="key">N</span>
          </button>
        </>
      ) : (
        <span className="text-soft">
          {candidates.length === 1 ? 'One passage' : `${candidates.length} passages`} with noise alone found, best first{' '}
          <span className="key">C</span>
        </span>
      )}
    </div>
  );
}
