import { parametersOf, treatmentOf, type Finding, type ThirdOctave } from '@euphonos/dsp';
import { Check } from 'lucide-react';
import { formatNumber, setMinus } from '../../components/figures.js';
import { GaugeLine } from '../../components/gauge-line.js';
import { certaintyWord, channelInWords, inWords } from '@euphonos/engine';
import { Where } from './where.js';

interface Props {
  readonly finding: Finding;
  /** Of the recording. */
  readonly channels: number;
  readonly seconds: number;
  readonly taken: boolean;
  readonly current: boolean;
  readonly onPick: () => void;
  readonly onLoop: (index: number) => void;
  readonly onTake: () => void;
}

/** One finding: what it is, its figure, how bad, where, how sure, and what would mend it. */
export function FindingLine({ finding, channels, seconds, taken, current, onPick, onLoop, onTake }: Props) {
  const { title, figure, sentence, gauge, spans } = inWords(finding);
  const { suggestion } = finding;
  const definition = suggestion && treatmentOf(suggestion.kind);
  return (
    <li
      data-finding={finding.kind}
      onMouseEnter={onPick}
      onFocus={onPick}
      className={`grid grid-cols-[150px_128px_1fr_190px_232px] items-center gap-x-4 border-t py-2 ${current ? 'border-ink' : 'border-line'}`}
    >
      <strong className="text-[15px] leading-tight font-semibold">
        {title}
        {finding.channel !== undefined && finding.kind !== 'channel' && (
          <span className="block text-[12px] font-normal text-soft">{channelInWords(finding.channel, channels)}</span>
        )}
      </strong>
      <b className="whitespace-nowrap text-[19px] leading-none font-semibold">{figure}</b>
      <p className="m-0 text-[13px] leading-snug">
        {sentence}{' '}
        <span className="whitespace-nowrap text-soft" title={`Certainty ${Math.round(finding.certainty * 100)} %`}>
          {certaintyWord(finding.certainty)}
        </span>
      </p>
      {finding.kind === 'noise-floor' ? (
        <ThirdOctaves bands={finding.thirdOctaves} />
      ) : spans.length > 0 ? (
        <Where spans={spans} seconds={seconds} title={title} onLoop={onLoop} />
      ) : gauge ? (
        <GaugeLine gauge={gauge} />
      ) : (
        <span />
      )}
      {definition ? (
        taken ? (
          <span className="flex items-center gap-1.5 text-[13px] text-result">
            <Check size={14} /> {definition.title} is in the chain
          </span>
        ) : (
          <button type="button" className="press text-left leading-tight" onClick={onTake} title={definition.sentence}>
            <b className="font-semibold">Take this:</b> {definition.title}
            <span className="block truncate text-[12px] text-soft">{setMinus(definition.summary(parametersOf(suggestion)))}</span>
          </button>
        )
      ) : (
        <span />
      )}
    </li>
  );
}

const LOWEST_BAND_DBFS = -100;

/** The noise by third octaves: where in the spectrum it lies. */
function ThirdOctaves({ bands }: { readonly bands: readonly ThirdOctave[] }) {
  const top = Math.max(LOWEST_BAND_DBFS + 20, ...bands.map(({ dbfs }) => dbfs));
  return (
    <div className="flex h-[30px] w-full items-end gap-px border-b border-ink" role="img" aria-label="Noise by third octaves">
      {bands.map(({ hz, dbfs }) => (
        <i
          key={hz}
          title={`${hz} Hz: ${formatNumber(dbfs, 1)} dBFS`}
          className="grow bg-removed/70 hover:bg-ink"
          style={{ height: `${Math.max(3, ((dbfs - LOWEST_BAND_DBFS) / (top - LOWEST_BAND_DBFS)) * 100)}%` }}
        />
      ))}
    </div>
  );
}
