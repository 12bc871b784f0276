import { liveNotes } from '@euphonos/dsp';
import { Headphones } from 'lucide-react';
import { formatDb, formatNumber } from '../../components/figures.js';
import { LevelBar } from './level-bar.js';
import { LiveTreatment } from './live-treatment.js';
import { useDesk, useDeskState } from './use-desk.js';

const ms = (seconds: number): string => `${formatNumber(1000 * seconds, 1)} ms`;

/** The chain that the listens made: heard live in the headphones, or on what was just said, before and after. */
export function LiveChainColumn() {
  const chain = useDeskState((state) => state.chain);
  const checked = useDeskState((state) => state.check !== null);
  const notes = liveNotes(chain);
  return (
    <aside aria-label="Live chain" className="flex w-[396px] shrink-0 flex-col border-l border-line bg-sheet max-[1100px]:w-[320px]">
      <div className="flex items-baseline justify-between px-4 pt-3 pb-1">
        <h2 className="m-0 text-[17px]">Chain</h2>
        <span className="text-[12px] text-soft">kept beside what is recorded; nothing is baked in</span>
      </div>
      <div className="min-h-0 grow overflow-y-auto px-4">
        {chain.treatments.map((settings) => (
          <LiveTreatment key={settings.id} settings={settings} note={notes.find(({ kind }) => kind === settings.kind) ?? null} />
        ))}
        {chain.treatments.length === 0 && (
          <p className="text-soft">
            The listens make it: high-pass, what hums and hisses, a gate with its thresholds, the level. Until then the microphone is heard
            as it is.
          </p>
        )}
      </div>
      {checked && <WhatWasSaid />}
      <Hearing />
    </aside>
  );
}

/** A loop of what was just said. */
function WhatWasSaid() {
  const desk = useDesk();
  const pair = useDeskState((state) => state.pair);
  const busy = useDeskState((state) => state.pairBusy);
  const side = (which: 'before' | 'after', ink: string) => (
    <button
      type="button"
      aria-pressed={pair === which}
      className={`press ${pair === which ? `border-current! font-semibold ${ink}` : ''}`}
      onClick={() => void desk.playPair(which)}
    >
      {which}
    </button>
  );
  return (
    <div className="flex items-center gap-2 border-t border-line px-4 py-2">
      <span className="grow text-[13px]">What you just said{busy && <span className="text-soft"> is treated …</span>}</span>
      {side('before', 'text-source')}
      {side('after', 'text-result')}
      <span className="key" title="Another side">
        X
      </span>
      {pair && (
        <button type="button" className="press" onClick={() => desk.listens.stopPair()}>
          Stop
        </button>
      )}
    </div>
  );
}

/** Microphone to headphones: on or off, how late, and what the chain does now. */
function Hearing() {
  const desk = useDesk();
  const open = useDeskState((state) => state.status === 'open');
  const hearing = useDeskState((state) => state.hearing);
  const feedbackHz = useDeskState((state) => state.feedbackHz);
  const live = useDeskState((state) => state.live);
  return (
    <div className="border-t border-line px-4 py-2.5" aria-label="Headphones">
      <div className="flex items-center gap-3">
        <button
          type="button"
          disabled={!open}
          aria-pressed={hearing}
          className={hearing ? 'press-strong py-1!' : 'press'}
          onClick={() => desk.hear(!hearing)}
        >
          <Headphones size={14} className="mr-1 inline" />
          {hearing ? 'Heard' : 'Hear it'} <span className="key">H</span>
        </button>
        <div className="grow">
          <LevelBar rmsDbfs={hearing ? (live?.outDbfs ?? -100) : -100} peakDbfs={-100} label="Level out" />
        </div>
      </div>
      {feedbackHz !== null && (
        <p role="alert" className="m-0 mt-1 text-[13px] text-removed">
          A loop at {formatNumber(feedbackHz, 0)} Hz: the headphones are heard in the microphone. Muted; put them on, then hear it again.
        </p>
      )}
      <Delay />
      <p className="m-0 mt-1 text-[12.5px] text-soft">
        {live?.reductionDb != null && `noise ${formatDb(live.reductionDb, 'dB', 0)} · `}
        {live?.gateDb != null && (live.gateDb > -1 ? 'gate open · ' : 'gate shut · ')}
        {live?.compressorDb != null && `compressor ${formatDb(live.compressorDb, 'dB', 0)} · `}
        {live &&
          (live.heldDb < -0.1 ? <span className="text-removed">limiter holds {formatDb(-live.heldDb, 'dB', 1)}</span> : 'nothing held')}
      </p>
    </div>
  );
}

function Delay() {
  const desk = useDesk();
  const facts = useDeskState((state) => state.facts);
  const chainFrames = useDeskState((state) => state.chainFrames);
  const round = useDeskState((state) => state.roundSeconds);
  if (!facts) return null;
  const chainSeconds = chainFrames / facts.sampleRateHz;
  const outSeconds = desk.outSeconds || facts.outSeconds || 0;
  return (
    <p className="m-0 mt-1.5 flex items-baseline gap-2 text-[12.5px] text-soft">
      <span className="grow">
        in {facts.inSeconds === null ? '?' : ms(facts.inSeconds)} + chain <b className="font-semibold text-ink">{ms(chainSeconds)}</b> + out{' '}
        {ms(outSeconds)}
        {typeof round === 'number' && (
          <>
            {' '}
            · measured round <b className="font-semibold text-ink">{ms(round)}</b>
          </>
        )}
        {round === 'unheard' && <span className="text-removed"> · not heard: hold a headphone to the microphone</span>}
      </span>
      <button
        type="button"
        className="press px-1.5! py-0! text-[12px]"
        disabled={round === 'measuring'}
        title="Hold a headphone to the microphone: a short sweep is played, and heard again"
        onClick={() => void desk.measureRound()}
      >
        {round === 'measuring' ? 'measuring …' : 'measure'}
      </button>
    </p>
  );
}
