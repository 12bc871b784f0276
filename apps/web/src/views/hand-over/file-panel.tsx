import { bitsOf, fileFormats, formatFacts, isLossy, kbpsOf, rateOf, type BitDepth, type FileFormat, type FileSpec } from '@euphonos/engine';
import { Choice } from '../../components/choice.js';
import { channelWord, formatRate } from '../../components/figures.js';
import { Ruler } from '../../components/ruler.js';
import { Switch } from '../../components/switch.js';

/** Rates that are asked for. */
const RATES_HZ = [44_100, 48_000, 96_000] as const;
const FORMATS = fileFormats.map((format) => ({ value: format, title: formatFacts[format].title }));
const bitsTitle = (bits: BitDepth): string => (bits === '32f' ? '32-bit float' : `${bits} bits`);

interface Props {
  readonly file: FileSpec;
  readonly sessionHz: number;
  /** Channels of the mix. */
  readonly mixChannels: number;
  readonly onChange: (file: FileSpec) => void;
}

/** How the file is written: format, depth or bit rate, sample rate, channels. */
export function FilePanel({ file, sessionHz, mixChannels, onChange }: Props) {
  const facts = formatFacts[file.format];
  const set = (part: Partial<FileSpec>): void => onChange({ ...file, ...part });
  const become = (format: FileFormat): void => {
    const { bits, bitrateKbps, ratesHz } = formatFacts[format];
    const [least, most] = bitrateKbps;
    set({
      format,
      bits: bits.length === 0 || bits.includes(file.bits) ? file.bits : bits[bits.length - 1]!,
      bitrateKbps: most === 0 ? file.bitrateKbps : Math.max(least, Math.min(most, file.bitrateKbps)),
      sampleRateHz: ratesHz && file.sampleRateHz !== null && !ratesHz.includes(file.sampleRateHz) ? null : file.sampleRateHz,
    });
  };
  const rates = RATES_HZ.filter((hz) => facts.ratesHz === null || facts.ratesHz.includes(hz));
  const own = rateOf({ ...file, sampleRateHz: null }, sessionHz);
  const [least, most] = facts.bitrateKbps;
  const channels = file.channels ?? mixChannels;
  const written = kbpsOf(file, rateOf(file, sessionHz), channels);
  return (
    <section aria-label="File" className="mt-3 border-t border-line pt-2" data-file={file.format}>
      <div className="mb-1 font-semibold">File</div>
      <Choice label="Format" value={file.format} onChange={become} choices={FORMATS} />
      {isLossy(file) ? (
        <>
          <Ruler
            title="Bit rate"
            unit="kbit/s"
            value={file.bitrateKbps}
            min={least}
            max={most}
            step={8}
            scale="linear"
            practice={[96, 192]}
            sentence="All channels together."
            onChange={(bitrateKbps) => set({ bitrateKbps })}
          />
          {written !== file.bitrateKbps && (
            <p className="m-0 text-[12px] text-soft" data-written>
              Written: {written} kbit/s, what {facts.title} has for this rate and {channelWord(channels)}.
            </p>
          )}
          {facts.variable && (
            <label className="mt-1 flex items-center justify-between">
              <span>Variable about that rate</span>
              <Switch label="Variable bit rate" on={file.variable} onChange={(variable) => set({ variable })} />
            </label>
          )}
        </>
      ) : (
        <div className="mt-1 flex items-baseline justify-between">
          <Choice
            label="Bits"
            value={String(bitsOf(file))}
            onChange={(bits) => set({ bits: bits === '32f' ? '32f' : bits === '16' ? 16 : 24 })}
            choices={facts.bits.map((bits) => ({ value: String(bits), title: bitsTitle(bits) }))}
          />
          {bitsOf(file) !== '32f' && (
            <label
              className="flex items-center gap-2"
              title="A noise of two steps, where bits are lost: what is rounded becomes a steady hiss far below everything, and no distortion"
            >
              <span>dither</span>
              <Switch label="Dither" on={file.dither} onChange={(dither) => set({ dither })} />
            </label>
          )}
        </div>
      )}
      <div className="mt-1 flex items-baseline justify-between gap-3">
        <Choice
          label="Sample rate"
          value={String(file.sampleRateHz)}
          onChange={(hz) => set({ sampleRateHz: hz === 'null' ? null : Number(hz) })}
          choices={[
            { value: 'null', title: `as it is, ${formatRate(own)}` },
            ...rates.filter((hz) => hz !== own || file.sampleRateHz === hz).map((hz) => ({ value: String(hz), title: formatRate(hz) })),
          ]}
        />
        <Choice
          label="Channels"
          value={String(file.channels)}
          onChange={(channels) => set({ channels: channels === '1' ? 1 : channels === '2' ? 2 : null })}
          choices={[
            { value: 'null', title: 'as the mix', hint: 'One where nothing is panned and nothing has two, else two' },
            { value: '1', title: 'mono', hint: 'Half of left and right' },
            { value: '2', title: 'stereo' },
          ]}
        />
      </div>
    </section>
  );
}
