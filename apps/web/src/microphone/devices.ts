export const SIMULATED = 'simulated';

export interface DeviceChoice {
  readonly id: string;
  readonly label: string;
}

/** What a device and the browser say of what comes in. */
export interface MicrophoneFacts {
  readonly label: string;
  readonly sampleRateHz: number;
  readonly channels: number;
  readonly bits: number | null;
  /** What the browser was told to leave alone, and does all the same. */
  readonly processing: readonly string[];
  /** Whether the browser tells at all. */
  readonly processingKnown: boolean;
  /** Of the device and the browser, seconds; null where they do not tell. */
  readonly inSeconds: number | null;
  readonly outSeconds: number | null;
  /** How frames are taken: from the device itself, or through the audio clock. */
  readonly capture: 'device' | 'audio clock';
}

/** What a browser does with a voice unless it is told not to, and what it is called. */
const PROCESSING: Readonly<Record<string, string>> = {
  echoCancellation: 'echo cancellation',
  noiseSuppression: 'noise suppression',
  autoGainControl: 'automatic gain',
};
const RAW: MediaTrackConstraints = {
  ...Object.fromEntries(Object.keys(PROCESSING).map((name) => [name, false])),
  channelCount: { ideal: 2 },
};

/** A name of a browser's interface as words. */
const inWords = (name: string): string => name.replace(/[A-Z]/g, (sign) => ` ${sign.toLowerCase()}`);

/** Whatever else of a track is on or off is done to the sound as well, also what came into browsers later than this. */
const switches = (settings: MediaTrackSettings): [string, boolean][] =>
  Object.entries(settings).filter((entry): entry is [string, boolean] => typeof entry[1] === 'boolean');

/** Switches off all that is still on. */
async function leaveAlone(track: MediaStreamTrack): Promise<void> {
  const still = switches(track.getSettings()).filter(([, on]) => on);
  if (still.length > 0)
    await track.applyConstraints({ ...RAW, ...Object.fromEntries(still.map(([name]) => [name, false])) }).catch(() => undefined);
}

/** Why there is no microphone, in words. */
export function microphoneProblem(error: unknown): string {
  const { name, message } = error as DOMException;
  switch (name) {
    case 'NotAllowedError':
      return 'This page may not use a microphone. Allow it in the address line of the browser, then open it again. Nothing else is affected.';
    case 'NotFoundError':
    case 'OverconstrainedError':
      return 'No microphone is connected. Connect one and open it again, or try the simulated one.';
    case 'NotReadableError':
      return 'The microphone is there but cannot be opened: another program may have it to itself. Close that, then open it again.';
    default:
      return message || 'The microphone could not be opened.';
  }
}

/** Devices that can be chosen; their names are known once one may be used. */
export async function microphones(): Promise<DeviceChoice[]> {
  const devices = (await navigator.mediaDevices?.enumerateDevices().catch(() => [])) ?? [];
  const inputs = devices.filter(({ kind, deviceId }) => kind === 'audioinput' && deviceId !== '');
  return [
    ...inputs.map(({ deviceId, label }, i) => ({ id: deviceId, label: label || `Microphone ${i + 1}` })),
    { id: SIMULATED, label: 'Simulated microphone (the demo’s narrator)' },
  ];
}

/** @throws DOMException as getUserMedia does */
export async function openDevice(deviceId: string): Promise<MediaStream> {
  if (!navigator.mediaDevices)
    throw new Error('A browser gives microphones to pages of this machine or of https addresses only; this page is neither.');
  const device = deviceId === '' || deviceId === 'default' ? {} : { deviceId: { exact: deviceId } };
  const stream = await navigator.mediaDevices.getUserMedia({ audio: { ...RAW, ...device } });
  await leaveAlone(stream.getAudioTracks()[0]!);
  return stream;
}

/** What device and browser say of a track. */
export function factsOf(context: AudioContext, track: MediaStreamTrack, real: boolean, direct: boolean): MicrophoneFacts {
  const settings = track.getSettings() as MediaTrackSettings & { latency?: number };
  const told = switches(settings);
  return {
    label: real ? track.label : 'Simulated microphone',
    sampleRateHz: settings.sampleRate ?? context.sampleRate,
    channels: real ? (settings.channelCount ?? 1) : 1,
    bits: settings.sampleSize ?? null,
    processing: told.flatMap(([name, on]) => (on ? [PROCESSING[name] ?? inWords(name)] : [])),
    processingKnown: !real || told.length > 0,
    inSeconds: settings.latency ?? null,
    outSeconds: context.baseLatency,
    capture: direct ? 'device' : 'audio clock',
  };
}
