import { adviceOf, type CheckAdvice } from '@euphonos/engine';
import { useMemo } from 'react';
import { setMinus } from '../../components/figures.js';
import { GaugeLine } from '../../components/gauge-line.js';
import { useDeskState } from './use-desk.js';

const INK: Readonly<Record<CheckAdvice['verdict'], string>> = { must: 'text-removed', mend: 'text-ink', good: 'text-soft' };

/** What three listens say: the room first, the worst first. */
export function AdviceList() {
  const check = useDeskState((state) => state.check)!;
  const lines = useMemo(() => adviceOf(check.figures, check.thresholds), [check]);
  const count = lines.filter(({ verdict }) => verdict !== 'good').length;
  return (
    <section aria-label="In the room" className="px-5 pt-2 pb-3">
      <h2 className="m-0 text-[17px]">
        In the room first{' '}
        <span className="font-sans text-[13px] font-normal text-soft">{count === 0 ? 'nothing to change' : `${count} to change`}</span>
      </h2>
      <ul className="m-0 mt-1 list-none p-0">
        {lines.map(({ title, figure, gauge, verdict, sentence }) => (
          <li
            key={title}
            data-advice={title}
            data-verdict={verdict}
            className="grid grid-cols-[150px_118px_110px_1fr] items-center gap-x-4 border-t border-line py-1"
          >
            <strong className={`text-[14px] leading-tight font-semibold ${INK[verdict]}`}>{title}</strong>
            <b className={`text-[15px] leading-none font-semibold whitespace-nowrap ${INK[verdict]}`}>{setMinus(figure)}</b>
            {gauge ? <GaugeLine gauge={gauge} /> : <span />}
            <p className={`m-0 text-[13px] leading-snug ${verdict === 'good' ? 'text-soft' : ''}`}>{setMinus(sentence)}</p>
          </li>
        ))}
      </ul>
    </section>
  );
}
