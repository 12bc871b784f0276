import type { ChainSpec, NoiseProfile } from '@euphonos/dsp';
import { loadKernels } from '../audio/kernels.js';
import type { MicrophoneChannel, RecorderCommand } from '../recorder/protocol.js';
import { factsOf, openDevice, SIMULATED, type MicrophoneFacts } from './devices.js';
import { LIVE_PROCESSOR, type LiveCommand, type LiveOptions, type LiveReport } from './live-protocol.js';
import workletUrl from './live.worklet.ts?worker&url';
import { probeSweep, roundTripFrames } from './round-trip.js';
import { SimulatedMicrophone, type Performance } from './simulated.js';

/** Streams of what a device gives, where the browser has them: straight from it, whatever the audio clock does. */
interface TrackProcessor {
  readonly readable: ReadableStream<AudioData>;
}
declare const MediaStreamTrackProcessor: (new (options: { track: MediaStreamTrack; maxBufferSize: number }) => TrackProcessor) | undefined;

/** Pieces of 10 ms that may wait to be read while the machine is busy. */
const MOST_WAITING = 1000;

/** An open microphone with its live chain. */
export class Microphone {
  readonly #context: AudioContext;
  readonly #node: AudioWorkletNode;
  readonly #track: MediaStreamTrack;
  /** What the recorder reads. */
  readonly #copy: MediaStreamTrack | null;
  readonly #simulated: SimulatedMicrophone | null;
  #probed: ((heard: Float32Array) => void) | null = null;

  private constructor(
    readonly facts: MicrophoneFacts,
    readonly source: Extract<RecorderCommand, { type: 'source' }>,
    parts: {
      context: AudioContext;
      node: AudioWorkletNode;
      track: MediaStreamTrack;
      copy: MediaStreamTrack | null;
      simulated: SimulatedMicrophone | null;
    },
    onReport: (report: LiveReport) => void,
    onEnded: () => void,
  ) {
    this.#context = parts.context;
    this.#node = parts.node;
    this.#track = parts.track;
    this.#copy = parts.copy;
    this.#simulated = parts.simulated;
    this.#track.addEventListener('ended', onEnded);
    this.#node.port.onmessage = ({ data }) => {
      const report = data as LiveReport;
      if (report.type === 'probed') this.#probed?.(report.heard);
      else onReport(report);
    };
  }

  /** @throws DOMException as getUserMedia does */
  static async open(
    deviceId: string,
    channel: MicrophoneChannel,
    onReport: (report: LiveReport) => void,
    onEnded: () => void,
  ): Promise<Microphone> {
    const real = deviceId === SIMULATED ? null : await openDevice(deviceId);
    const settings = real?.getAudioTracks()[0]!.getSettings();
    const context = new AudioContext({
      latencyHint: 0,
      ...(settings?.sampleRate ? { sampleRate: settings.sampleRate } : { sampleRate: 48_000 }),
    });
    try {
      return await Microphone.#connect(context, real, channel, onReport, onEnded);
    } catch (error) {
      await context.close();
      for (const track of real?.getTracks() ?? []) track.stop();
      throw error;
    }
  }

  static async #connect(
    context: AudioContext,
    real: MediaStream | null,
    channel: MicrophoneChannel,
    onReport: (report: LiveReport) => void,
    onEnded: () => void,
  ): Promise<Microphone> {
    const [kernels] = await Promise.all([loadKernels(), context.audioWorklet.addModule(workletUrl)]);
    const simulated = real ? null : await SimulatedMicrophone.open(context);
    const stream = real ?? simulatedStream(context, simulated!);
    const track = stream.getAudioTracks()[0]!;
    // What is simulated is made by the audio clock, and taken by it.
    const copy = simulated || typeof MediaStreamTrackProcessor === 'undefined' ? null : track.clone();
    const direct = copy && new MediaStreamTrackProcessor!({ track: copy, maxBufferSize: MOST_WAITING }).readable;
    const options: LiveOptions = { kernels, channel, capture: direct === null };
    const node = new AudioWorkletNode(context, LIVE_PROCESSOR, { outputChannelCount: [2], processorOptions: options });
    const into = real ? context.createMediaStreamSource(real) : simulated!.output;
    into.connect(node);
    node.connect(context.destination);
    if (simulated) node.connect(simulated.headphones);
    const { port1, port2 } = new MessageChannel();
    if (!direct) node.port.postMessage({ type: 'capture-to', port: port1 } satisfies LiveCommand, [port1]);
    await context.resume();
    return new Microphone(
      factsOf(context, track, real !== null, direct !== null),
      {
        type: 'source',
        sampleRateHz: context.sampleRate,
        channel: simulated || track.getSettings().channelCount === 1 ? 'first' : channel,
        stream: direct,
        port: direct ? null : port2,
      },
      { context, node, track, copy, simulated },
      onReport,
      onEnded,
    );
  }

  get simulated(): boolean {
    return this.#simulated !== null;
  }

  perform(performance: Performance): void {
    this.#simulated?.perform(performance);
  }

  bringNear(gain: number): void {
    this.#simulated?.bringNear(gain);
  }

  setChain(spec: ChainSpec, profile: NoiseProfile | null): void {
    this.#send({ type: 'chain', spec, profile });
  }

  hear(on: boolean): void {
    this.#send({ type: 'hear', on });
  }

  /** Seconds from the headphones back through the microphone, measured; null where it is not heard. */
  async measureRound(): Promise<number | null> {
    const rate = this.#context.sampleRate;
    const sweep = probeSweep(rate);
    const heard = new Promise<Float32Array>((resolve) => (this.#probed = resolve));
    this.#send({ type: 'probe', sweep, listenFrames: Math.round(0.7 * rate) });
    const frames = roundTripFrames(sweep, await heard);
    return frames === null ? null : frames / rate;
  }

  get outSeconds(): number {
    return this.#context.baseLatency + (this.#context.outputLatency || 0);
  }

  /** Plays two sounds in step, over and over; `choose` says which is heard. */
  playPair(before: Float32Array, after: Float32Array): { readonly choose: (which: 'before' | 'after') => void; readonly stop: () => void } {
    const context = this.#context;
    const at = context.currentTime + 0.05;
    const made = [before, after].map((samples) => {
      const buffer = context.createBuffer(1, samples.length, context.sampleRate);
      buffer.copyToChannel(samples as Float32Array<ArrayBuffer>, 0);
      const source = context.createBufferSource();
      source.buffer = buffer;
      source.loop = true;
      const gain = context.createGain();
      gain.gain.value = 0;
      source.connect(gain).connect(context.destination);
      source.start(at);
      return { source, gain: gain.gain };
    });
    return {
      choose: (which) =>
        made.forEach(({ gain }, i) => gain.setTargetAtTime((which === 'before') === (i === 0) ? 1 : 0, context.currentTime, 0.008)),
      stop: () => {
        for (const { source } of made) source.stop();
      },
    };
  }

  /** Ticks before a take, and at the time from which it counts. */
  tick(last: boolean): void {
    const context = this.#context;
    const tone = context.createOscillator();
    const gain = context.createGain();
    tone.frequency.value = last ? 1320 : 880;
    gain.gain.setValueAtTime(0.12, context.currentTime);
    gain.gain.setTargetAtTime(0, context.currentTime + 0.04, 0.015);
    tone.connect(gain).connect(context.destination);
    tone.start();
    tone.stop(context.currentTime + 0.15);
  }

  #send(command: LiveCommand): void {
    this.#node.port.postMessage(command);
  }

  close(): void {
    this.#track.stop();
    this.#copy?.stop();
    this.#simulated?.close();
    this.#node.disconnect();
    void this.#context.close();
  }
}

function simulatedStream(context: AudioContext, simulated: SimulatedMicrophone): MediaStream {
  const into = context.createMediaStreamDestination();
  into.channelCount = 1;
  simulated.output.connect(into);
  return into.stream;
}
