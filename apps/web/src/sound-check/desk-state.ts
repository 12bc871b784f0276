import type { TakeView } from '@euphonos/contracts';
import type { ChainSpec, Listen, ListenState, SoundCheck } from '@euphonos/dsp';
import type { DeviceChoice, MicrophoneFacts } from '../microphone/devices.js';
import type { LiveMeters } from '../microphone/live-protocol.js';
import type { LeftTake, MeterReport, MicrophoneChannel, TakeReport } from '../recorder/protocol.js';

/** A take of this sitting, on this page and on the server. */
export interface TakeLine {
  readonly report: TakeReport;
  readonly view: TakeView | null;
  /** In what it differs from the one before, in one line; null while that is not known, empty when in nothing. */
  readonly difference: string | null;
}

/** All that the view of the sound check shows. */
export interface DeskState {
  readonly devices: readonly DeviceChoice[];
  readonly deviceId: string;
  readonly channel: MicrophoneChannel;
  readonly status: 'closed' | 'opening' | 'open';
  readonly problem: string | null;
  readonly facts: MicrophoneFacts | null;
  readonly meter: MeterReport | null;
  readonly listening: { readonly listen: Listen; readonly state: ListenState } | null;
  readonly heard: ReadonlySet<Listen>;
  readonly checking: boolean;
  readonly check: SoundCheck | null;
  readonly chain: ChainSpec;
  readonly live: LiveMeters | null;
  readonly chainFrames: number;
  readonly hearing: boolean;
  readonly feedbackHz: number | null;
  /** The way round through headphones and microphone, seconds; `unheard` when the sweep was not heard. */
  readonly roundSeconds: number | 'unheard' | 'measuring' | null;
  /** A loop of what was just said: which of both is heard. */
  readonly pair: 'before' | 'after' | null;
  readonly pairBusy: boolean;
  /** How far the headphones stand beside the simulated microphone. */
  readonly nearGain: number;
  /** Ticks before a take, and the one that is counted now. */
  readonly countIn: boolean;
  readonly counting: number | null;
  readonly preRoll: boolean;
  readonly takeName: string;
  readonly recording: TakeReport | null;
  readonly takes: readonly TakeLine[];
  readonly left: readonly LeftTake[];
}

export const CLOSED: DeskState = {
  devices: [],
  deviceId: '',
  channel: 'first',
  status: 'closed',
  problem: null,
  facts: null,
  meter: null,
  listening: null,
  heard: new Set(),
  checking: false,
  check: null,
  chain: { treatments: [] },
  live: null,
  chainFrames: 0,
  hearing: false,
  feedbackHz: null,
  roundSeconds: null,
  pair: null,
  pairBusy: false,
  nearGain: 0,
  countIn: false,
  counting: null,
  preRoll: true,
  takeName: 'Take',
  recording: null,
  takes: [],
  left: [],
};

/** What is shown where nothing has been heard of a microphone yet. */
export const NOTHING_CHECKED: Pick<DeskState, 'check' | 'chain' | 'heard' | 'listening' | 'checking'> = {
  check: null,
  chain: { treatments: [] },
  heard: new Set(),
  listening: null,
  checking: false,
};
