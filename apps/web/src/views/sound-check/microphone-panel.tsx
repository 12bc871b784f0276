import { formatDb, formatNumber, formatRate } from '../../components/figures.js';
import { Choice } from '../../components/choice.js';
import type { MicrophoneFacts } from '../../microphone/devices.js';
import type { MicrophoneChannel } from '../../recorder/protocol.js';
import { LevelBar } from './level-bar.js';
import { useDesk, useDeskState } from './use-desk.js';

/** How loud the headphones are in the simulated microphone when they lie beside it. */
const BESIDE = 0.7;

/** Device and channel, what the browser says of them, and what comes in. */
export function MicrophonePanel() {
  const desk = useDesk();
  const devices = useDeskState((state) => state.devices);
  const deviceId = useDeskState((state) => state.deviceId);
  const status = useDeskState((state) => state.status);
  const facts = useDeskState((state) => state.facts);
  const recording = useDeskState((state) => state.recording !== null);
  return (
    <section aria-label="Microphone" className="w-[400px] shrink-0 border-r border-line px-5 py-3.5">
      <div className="flex items-baseline justify-between">
        <h2 className="m-0 text-[17px]">Microphone</h2>
        {status === 'open' && facts && <ChannelChoice facts={facts} disabled={recording} />}
      </div>
      <div className="mt-1.5 flex gap-2">
        <select
          aria-label="Device"
          value={deviceId}
          disabled={recording}
          onChange={(event) => desk.choose({ deviceId: event.target.value })}
          className="min-w-0 grow rounded-sheet border border-line bg-sheet px-2 py-1"
        >
          {devices.map(({ id, label }) => (
            <option key={id} value={id}>
              {label}
            </option>
          ))}
        </select>
        <button
          type="button"
          className={`whitespace-nowrap ${status === 'open' ? 'press' : 'press-strong py-1!'}`}
          disabled={status === 'opening' || recording}
          onClick={() => void desk.open()}
        >
          {status === 'opening' ? 'Opening …' : 'Open'} <span className="key">O</span>
        </button>
      </div>
      {facts && status === 'open' ? <Facts facts={facts} /> : <p className="m-0 mt-2 text-[13px] text-soft">Nothing is listened to yet.</p>}
    </section>
  );
}

function ChannelChoice({ facts, disabled }: { readonly facts: MicrophoneFacts; readonly disabled: boolean }) {
  const desk = useDesk();
  const channel = useDeskState((state) => state.channel);
  if (facts.channels < 2) return <span className="text-[13px] text-soft">mono</span>;
  return (
    <span className="flex items-baseline gap-2 text-[13px]" inert={disabled}>
      <span className="text-soft">Channel</span>
      <Choice<MicrophoneChannel>
        label="Channel"
        value={channel}
        onChange={(next) => desk.choose({ channel: next })}
        choices={[
          { value: 'first', title: '1' },
          { value: 'second', title: '2' },
          { value: 'both', title: 'both', hint: 'Two channels are recorded; what is heard live is their mean' },
        ]}
      />
    </span>
  );
}

function Facts({ facts }: { readonly facts: MicrophoneFacts }) {
  const desk = useDesk();
  const nearGain = useDeskState((state) => state.nearGain);
  const { processing, processingKnown } = facts;
  return (
    <>
      <InputMeter />
      <p className="m-0 mt-1 text-[12.5px] leading-snug text-soft">
        {formatRate(facts.sampleRateHz)}
        {facts.bits && ` · ${facts.bits} bit`} · frames by the {facts.capture} ·{' '}
        {processing.length > 0 ? (
          <span className="text-removed">the browser still does {processing.join(' and ')}: choose another device or browser</span>
        ) : processingKnown ? (
          <span className="text-result">echo, gain and suppression of the browser are off</span>
        ) : (
          <span>whether the browser leaves the sound alone it does not tell</span>
        )}
      </p>
      {facts.label === 'Simulated microphone' && (
        <label className="mt-1 flex items-center gap-2 text-[12.5px] text-soft">
          <input type="checkbox" checked={nearGain > 0} onChange={(event) => desk.bringNear(event.target.checked ? BESIDE : 0)} />
          headphones lie beside the simulated microphone
        </label>
      )}
    </>
  );
}

function InputMeter() {
  const meter = useDeskState((state) => state.meter);
  return (
    <div className="mt-2.5">
      <LevelBar rmsDbfs={meter?.rmsDbfs ?? -100} peakDbfs={meter?.peakDbfs ?? -100} label="Level in" />
      <div className="mt-0.5 flex justify-between text-[12.5px] text-soft">
        <span>
          in <b className="font-semibold text-ink">{formatDb(meter?.rmsDbfs, 'dBFS', 0)}</b> · peak{' '}
          <b className={`font-semibold ${meter?.clipped ? 'text-removed' : 'text-ink'}`}>
            {meter?.clipped ? 'clipped' : formatDb(meter?.peakDbfs, 'dBFS', 0)}
          </b>
        </span>
        <span className={meter && meter.lostFrames > 0 ? 'text-removed' : ''} data-lost={meter?.lostFrames ?? 0}>
          {meter && meter.lostFrames > 0 ? `${formatNumber(meter.lostFrames, 0)} samples missing` : 'nothing missing'}
        </span>
      </div>
    </div>
  );
}
