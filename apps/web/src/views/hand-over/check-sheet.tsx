import type { RenderReport } from '@euphonos/contracts';
import type { DeliveryTarget } from '@euphonos/engine';
import { formatNumber, setMinus, unitDigits } from '../../components/figures.js';
import { LoudnessChart } from './loudness-chart.js';
import { MendLine } from './mend-line.js';

const figure = (value: number | null, unit: string): string => (value === null ? '–' : formatNumber(value, unitDigits(unit)));

/** What was measured of the recording and of the file, line by line, with the verdict. */
export function CheckSheet({ report, target }: { readonly report: RenderReport; readonly target: DeliveryTarget }) {
  const { lines, work } = report;
  return (
    <>
      <table
        className="w-full border-collapse text-left [&_td]:border-t [&_td]:border-line [&_td]:py-1.5 [&_td:not(:first-child)]:whitespace-nowrap [&_td:not(:first-child)]:pl-4 [&_th]:pb-1 [&_th]:text-[12px] [&_th]:font-normal [&_th]:text-soft"
        aria-label="Check sheet"
      >
        <thead>
          <tr>
            <th>Measured</th>
            <th className="text-right">Before</th>
            <th className="text-right">After</th>
            <th className="pl-2" />
            <th className="pl-4">Asked</th>
            <th className="text-right">Verdict</th>
          </tr>
        </thead>
        <tbody>
          {lines.map(({ title, unit, before, after, asked, passed, missedBy, mend }) => (
            <tr key={title} data-line={title}>
              <td>
                {title}
                {mend && <MendLine mend={mend} />}
              </td>
              <td className="text-right text-soft">{figure(before, unit)}</td>
              <td className="text-right text-[19px] font-semibold">{figure(after, unit)}</td>
              <td className="pl-2! text-soft">{unit}</td>
              <td className="text-soft">{asked ? setMinus(asked) : 'nothing'}</td>
              <td className={`text-right font-semibold ${passed === null ? 'text-soft' : passed ? 'text-result' : 'text-removed'}`}>
                {passed === null ? '–' : passed ? 'passed' : missedBy === null ? 'failed' : `failed by ${formatNumber(missedBy, 1)}`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 mb-3" data-work>
        Fixed gain {work.gainDb > 0 ? '+' : ''}
        {formatNumber(work.gainDb, 1)} dB.{' '}
        {work.limitedDb >= 0.05
          ? `The limiter lowered peaks by up to ${formatNumber(work.limitedDb, 1)} dB, for ${formatNumber(work.limitedSeconds, 2)} s in all.`
          : 'The limiter had nothing to do.'}
      </p>
      <LoudnessChart report={report} target={target} />
    </>
  );
}
