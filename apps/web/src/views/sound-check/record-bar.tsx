import { Circle, Square } from 'lucide-react';
import type { TakeMarkKind } from '@euphonos/contracts';
import { formatTime } from '../../components/figures.js';
import { Switch } from '../../components/switch.js';
import { useDesk, useDeskState } from './use-desk.js';

const MARKS: readonly { readonly kind: TakeMarkKind; readonly key: string }[] = [
  { kind: 'good', key: 'G' },
  { kind: 'bad', key: 'B' },
  { kind: 'again', key: 'A' },
  { kind: 'mark', key: 'M' },
];

/** Record: always there, as the listening bar is elsewhere. */
export function RecordBar() {
  const desk = useDesk();
  const open = useDeskState((state) => state.status === 'open');
  const recording = useDeskState((state) => state.recording);
  const counting = useDeskState((state) => state.counting);
  return (
    <footer aria-label="Record" className="flex h-[76px] shrink-0 items-center gap-5 border-t border-line px-5">
      <button
        type="button"
        disabled={!open && !recording}
        aria-pressed={recording !== null}
        className={`flex h-[44px] w-[150px] items-center justify-center gap-2 rounded-sheet border font-semibold disabled:opacity-50 ${
          recording ? 'border-removed bg-removed text-sheet' : 'border-removed text-removed hover:bg-faint'
        }`}
        onClick={() => void desk.record()}
      >
        {recording ? <Square size={14} /> : <Circle size={14} />}
        {recording ? 'Stop' : counting !== null ? `in ${counting} …` : 'Record'}{' '}
        <span className="key border-current! text-current!">R</span>
      </button>
      {recording ? <Running /> : <BeforeTake />}
    </footer>
  );
}

function BeforeTake() {
  const desk = useDesk();
  const name = useDeskState((state) => state.takeName);
  const count = useDeskState((state) => state.takes.length);
  const countIn = useDeskState((state) => state.countIn);
  const preRoll = useDeskState((state) => state.preRoll);
  return (
    <>
      <label className="flex items-center gap-2">
        <span className="text-soft">Name</span>
        <input
          value={name}
          maxLength={100}
          onChange={(event) => desk.set({ takeName: event.target.value })}
          className="w-[170px] rounded-sheet border border-line bg-sheet px-2 py-1"
        />
        <b className="font-semibold">{count + 1}</b>
      </label>
      <label className="flex items-center gap-2 text-[13px]" title="The ten seconds before the key was pressed come along">
        <Switch on={preRoll} label="Pre-roll" onChange={(on) => desk.set({ preRoll: on })} /> with the 10 s before
      </label>
      <label className="flex items-center gap-2 text-[13px]" title="Three ticks in the headphones before it begins">
        <Switch on={countIn} label="Count in" onChange={(on) => desk.set({ countIn: on })} /> count in
      </label>
      <span className="ml-auto text-[13px] text-soft">as it comes, 32-bit float; kept here and on the server while it runs</span>
    </>
  );
}

function Running() {
  const desk = useDesk();
  const recording = useDeskState((state) => state.recording)!;
  const { frames, preRollFrames, sampleRateHz, keptFrames, sentFrames, keepProblem, sendProblem, marks } = recording;
  const seconds = (count: number): string => formatTime(count / sampleRateHz, 1);
  return (
    <>
      <span className="w-[150px]">
        <span className="block text-[12px] text-soft">{recording.name}</span>
        <span className="text-[22px] leading-none font-semibold" data-recorded={frames}>
          {seconds(frames - preRollFrames)}
        </span>
      </span>
      <span className="flex gap-1.5">
        {MARKS.map(({ kind, key }) => (
          <button key={kind} type="button" className="press" onClick={() => desk.takes.mark(kind)}>
            {kind} <span className="key">{key}</span>
            {marks.some((mark) => mark.kind === kind) && (
              <b className="ml-1 font-semibold">{marks.filter((mark) => mark.kind === kind).length}</b>
            )}
          </button>
        ))}
      </span>
      <span className="ml-auto text-right text-[12.5px] leading-snug text-soft">
        {keepProblem ? (
          <span className="block text-removed">{keepProblem}</span>
        ) : (
          <span className="block">safe on this machine {seconds(keptFrames)}</span>
        )}
        {sendProblem ? (
          <span className="block text-removed">{sendProblem}</span>
        ) : (
          <span className="block">on the server {seconds(sentFrames)}</span>
        )}
      </span>
    </>
  );
}
