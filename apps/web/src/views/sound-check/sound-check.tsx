import type { Listen } from '@euphonos/dsp';
import { Notice } from '../../components/notice.js';
import { useKeys } from '../../shell/use-keys.js';
import { AdviceList } from './advice-list.js';
import { LeftTakes } from './left-takes.js';
import { LevelRoll } from './level-roll.js';
import { LevelLadder } from './level-ladder.js';
import { ListensPanel } from './listens-panel.js';
import { LiveChainColumn } from './live-chain-column.js';
import { MicrophonePanel } from './microphone-panel.js';
import { RecordBar } from './record-bar.js';
import { TakesList } from './takes-list.js';
import { DeskProvider, useDesk, useDeskState, useOwnDesk } from './use-desk.js';

/** The microphone before and while somebody speaks. */
export function SoundCheck() {
  const desk = useOwnDesk();
  return desk && <DeskProvider value={desk}>{<Room />}</DeskProvider>;
}

function Room() {
  const problem = useDeskState((state) => state.problem);
  const checked = useDeskState((state) => state.check !== null);
  const listening = useDeskState((state) => state.listening !== null || state.checking);
  useDeskKeys();
  return (
    <>
      <main className="flex min-h-0 grow" aria-label="Sound check">
        <div className="flex min-w-0 grow flex-col overflow-y-auto">
          <div className="flex border-b border-line">
            <MicrophonePanel />
            <ListensPanel />
          </div>
          {problem && (
            <div className="px-5 pt-3">
              <Notice tone="trouble">{problem}</Notice>
            </div>
          )}
          <LeftTakes />
          <LevelLadder />
          <TakesList />
          {checked && !listening ? (
            <AdviceList />
          ) : (
            <>
              <LevelRoll />
              <HowItGoes />
            </>
          )}
        </div>
        <LiveChainColumn />
      </main>
      <RecordBar />
    </>
  );
}

/** Before anything was heard: what comes next. */
function HowItGoes() {
  const open = useDeskState((state) => state.status === 'open');
  return (
    <p className="m-0 max-w-[640px] px-5 py-3 text-soft">
      {open
        ? 'Three short listens: be silent, make your usual noise, speak as you will. Out of them come what to change in the room, and a chain with its thresholds. Recording works before that as well.'
        : 'Open a microphone. The browser’s own processing is switched off, and what it does all the same is told. Without a microphone, the simulated one shows the way.'}
    </p>
  );
}

function useDeskKeys(): void {
  const desk = useDesk();
  const listen = (one: Listen) => (): void => {
    if (desk.state.status === 'open' && !desk.state.recording) desk.listens.listen(desk.state.listening?.listen === one ? null : one);
  };
  useKeys('o', () => void desk.open());
  useKeys('1', listen('silence'));
  useKeys('2', listen('usual'));
  useKeys('3', listen('speech'));
  useKeys('h', () => desk.state.status === 'open' && desk.hear(!desk.state.hearing));
  useKeys('r', () => void desk.record());
  useKeys('g', () => desk.takes.mark('good'));
  useKeys('b', () => desk.takes.mark('bad'));
  useKeys('a', () => desk.takes.mark('again'));
  useKeys('m', () => desk.takes.mark('mark'));
  useKeys('space', () => (desk.state.pair ? desk.listens.stopPair() : !desk.state.recording && void desk.playPair('after')), {
    byCode: true,
    preventDefault: true,
  });
  useKeys('x', () => desk.state.pair && void desk.playPair(desk.state.pair === 'before' ? 'after' : 'before'));
}
