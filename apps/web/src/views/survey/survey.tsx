import type { Finding, SpanSeconds } from '@euphonos/dsp';
import { reelFrames } from '@euphonos/engine';
import { useState } from 'react';
import { toast } from 'sonner';
import { formatDb, formatNumber } from '../../components/figures.js';
import { Notice } from '../../components/notice.js';
import { changed } from '../../store/listening-slice.js';
import { activeTrack, edited, recordingFacts } from '../../store/session-slice.js';
import { store, useApp, useAppDispatch } from '../../store/store.js';
import { useWorkbench } from '../../workbench/workbench-context.js';
import { useTreatKeys } from '../treat/use-treat-keys.js';
import { FindingLine } from './finding-line.js';
import { inWords } from '@euphonos/engine';
import { isTaken } from './is-taken.js';
import { SurveyStrip } from './survey-strip.js';
import { SplitFirst } from './split-first.js';
import { useFindings, usePeopleApart, useSurvey } from './use-survey.js';
import { useTake } from './use-take.js';

/** A place is looped with this much around it, and no shorter than this. */
const AROUND_SECONDS = 0.7;
const LEAST_LOOP_SECONDS = 1.6;

/** What is wrong with the recording, in the order in which it should be mended. */
export function Survey() {
  useTreatKeys();
  const track = useApp(({ session }) => activeTrack(session))!;
  const session = useApp((state) => state.session)!;
  const recording = session.recordings.find(({ id }) => id === track.reel[0]!.recordingId) ?? session.recording;
  const { view, again, cancel } = useSurvey(recording.id);
  const [picked, setPicked] = useState<Finding | null>(null);
  const takeNow = useTake();
  const people = usePeopleApart();
  const [asked, setAsked] = useState<readonly Finding[] | null>(null);
  const take = (list: readonly Finding[]): void => {
    takeNow(list, findings);
    tellTaken(list.length, list[0]);
  };
  const takeOrAsk = (list: readonly Finding[]): void => (people ? setAsked(list) : take(list));
  const loop = useLoopAt();
  const findings = useFindings() ?? [];
  const seconds = reelFrames(track.reel) / session.history!.present.sampleRateHz;
  const toMend = findings.filter(({ suggestion }) => suggestion !== null);
  const toKnow = findings.filter(({ suggestion }) => suggestion === null);
  const taken = ({ suggestion }: Finding): boolean => suggestion !== null && isTaken(track, suggestion);
  const left = toMend.filter((finding) => !taken(finding));
  const line = (finding: Finding, i: number) => (
    <FindingLine
      key={`${finding.kind}/${i}`}
      finding={finding}
      channels={recording.facts!.channels}
      seconds={seconds}
      taken={taken(finding)}
      current={picked === finding}
      onPick={() => setPicked(finding)}
      onLoop={(index) => loop(inWords(finding).spans[index]!)}
      onTake={() => takeOrAsk([finding])}
    />
  );
  return (
    <main className="flex min-h-0 grow flex-col gap-2 px-5 pt-3">
      <SurveyStrip spans={picked ? inWords(picked).spans : []} />
      <div className="min-h-0 grow overflow-y-auto pb-4">
        {view?.survey ? (
          <>
            <div className="flex items-baseline gap-4 pt-1 pb-1.5">
              <h1 className="m-0 text-[18px]">
                {toMend.length === 0 ? 'Nothing to mend' : `${toMend.length} ${toMend.length === 1 ? 'thing' : 'things'} to mend`}
              </h1>
              <span className="text-soft">
                {toMend.length === 0
                  ? 'Nothing stands above its limit of detection.'
                  : 'in this order. Hover to see where, click a mark to loop it.'}
              </span>
              <LoudnessFacts />
              {left.length > 1 && (
                <button type="button" className="press shrink-0" onClick={() => takeOrAsk(left)}>
                  Take all {left.length}
                </button>
              )}
            </div>
            <ol className="m-0 list-none p-0" aria-label="To mend">
              {toMend.map(line)}
            </ol>
            {toKnow.length > 0 && <h2 className="m-0 pt-4 pb-1.5 text-[16px]">Good to know</h2>}
            <ol className="m-0 list-none p-0" aria-label="Good to know">
              {toKnow.map(line)}
            </ol>
          </>
        ) : (
          <Waiting view={view} onAgain={() => void again()} onCancel={() => void cancel()} />
        )}
      </div>
      {asked && people && (
        <SplitFirst
          taken={asked}
          people={people}
          onTogether={() => {
            setAsked(null);
            take(asked);
          }}
          onDone={(count) => {
            setAsked(null);
            tellTaken(count);
          }}
          onClose={() => setAsked(null)}
        />
      )}
    </main>
  );
}

/** What was done, in a word. */
function tellTaken(count: number, finding?: Finding): void {
  toast(
    count === 1 && finding
      ? `${inWords(finding).title}: taken into the chain. Ctrl Z takes it back.`
      : `${count} suggestions taken into the chain.`,
    { id: 'taken' },
  );
}

/** What the meters say of the whole recording; of several on a track from the least to the most. */
function LoudnessFacts() {
  const session = useApp((state) => state.session)!;
  const track = activeTrack(session)!;
  const all = recordingFacts(session, track).map(({ figures }) => figures);
  const extent = (values: readonly (number | null)[], unit: string): string => {
    const known = values.filter((value) => value !== null);
    const [least, most] = [Math.min(...known), Math.max(...known)];
    if (known.length === 0 || most - least < 0.05) return formatDb(known[0] ?? null, unit);
    return `${formatNumber(least, 1)} to ${formatDb(most, unit)}`;
  };
  return (
    <span
      className="ml-auto whitespace-nowrap text-[13px] text-soft"
      title="Of the whole recording: integrated loudness, loudness range, highest true peak"
    >
      {all.length > 1 && `${all.length} recordings · `}
      {extent(
        all.map((one) => one.integratedLufs),
        'LUFS',
      )}{' '}
      · range{' '}
      {extent(
        all.map((one) => one.loudnessRangeLu),
        'LU',
      )}{' '}
      · peak{' '}
      {extent(
        all.map((one) => one.truePeakDbtp),
        'dBTP',
      )}
    </span>
  );
}

function Waiting({
  view,
  onAgain,
  onCancel,
}: {
  readonly view: ReturnType<typeof useSurvey>['view'];
  readonly onAgain: () => void;
  readonly onCancel: () => void;
}) {
  if (!view) return null;
  const { state, progress, problem } = view.job;
  if (state === 'failed' || state === 'cancelled')
    return (
      <Notice
        tone="trouble"
        action={
          <button type="button" className="press" onClick={onAgain}>
            Survey it again
          </button>
        }
      >
        {state === 'cancelled'
          ? 'The survey was cancelled. The recording and your work are as they were.'
          : `The survey did not come to an end: ${problem?.message ?? 'no reason is known'} Your work is safe.`}
      </Notice>
    );
  return (
    <div role="status" className="flex max-w-[560px] flex-col gap-2 pt-4">
      <h1 className="m-0 text-[18px]">Listening to it once, from the start to the end</h1>
      <div className="relative h-[9px] border border-ink bg-sheet">
        <i className="absolute inset-y-0 left-0 bg-result" style={{ width: `${Math.round(progress * 100)}%` }} />
      </div>
      <p className="m-0 flex items-center gap-3 text-soft">
        {state === 'queued'
          ? 'It waits for a free worker.'
          : `${Math.round(progress * 100)} %. An hour takes about a minute. You can treat it meanwhile.`}
        <button type="button" className="press ml-auto" onClick={onCancel}>
          Cancel
        </button>
      </p>
    </div>
  );
}

function useLoopAt() {
  const dispatch = useAppDispatch();
  const workbench = useWorkbench();
  const { player, view, sampleRateHz } = workbench;
  return ({ startSeconds, endSeconds }: SpanSeconds): void => {
    const track = activeTrack(store.getState().session);
    if (!track) return;
    const [place] = workbench.places.ofSeconds({ startSeconds, endSeconds });
    if (!place) return void toast('This place of the recording was cut. Give it back to hear it.', { id: 'cut-away' });
    const middle = (place.startFrame + place.endFrame) / 2 / sampleRateHz;
    const half = Math.max(LEAST_LOOP_SECONDS / 2, (place.endFrame - place.startFrame) / 2 / sampleRateHz + AROUND_SECONDS);
    const span = {
      startFrame: Math.max(0, Math.round((middle - half) * sampleRateHz)),
      endFrame: Math.min(workbench.lengthFrames, Math.round((middle + half) * sampleRateHz)),
    };
    dispatch(edited({ type: 'set-loop', trackId: track.id, span }));
    dispatch(changed({ looping: true, selection: null }));
    view.show(span.startFrame - half * sampleRateHz, span.endFrame + half * sampleRateHz);
    player.seek(span.startFrame);
  };
}
