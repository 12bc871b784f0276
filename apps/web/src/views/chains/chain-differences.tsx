import { chainDifferences, type ChainSpec } from '@euphonos/dsp';
import { setMinus } from '../../components/figures.js';

interface Props {
  readonly here: ChainSpec;
  readonly there: ChainSpec;
  readonly name: string;
}

/** In what two chains differ, line by line. */
export function ChainDifferences({ here, there, name }: Props) {
  const found = chainDifferences(here, there);
  if (found.length === 0) return <p className="m-0 py-1 text-[12px] text-result">No difference to {name}.</p>;
  return (
    <table
      aria-label={`Differences to ${name}`}
      className="my-1 w-full border-collapse text-left text-[12px] [&_td]:border-t [&_td]:border-faint [&_td]:py-0.5"
    >
      <thead className="text-soft [&_th]:font-normal">
        <tr>
          <th>Treatment</th>
          <th>What</th>
          <th className="text-right">here</th>
          <th className="pl-3 text-right">{name}</th>
        </tr>
      </thead>
      <tbody>
        {found.map(({ treatment, what, here: own, there: other }, i) => (
          <tr key={i}>
            <td>{treatment}</td>
            <td className="text-soft">{what}</td>
            <td className="text-right">{setMinus(own)}</td>
            <td className="pl-3 text-right">{setMinus(other)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
