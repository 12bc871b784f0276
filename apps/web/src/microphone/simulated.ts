import { makeRoomTone } from '@euphonos/dsp';

/** What the simulated person does. */
export type Performance = 'silence' | 'usual' | 'talk';

const TONE_SECONDS = 20;
const QUIET_SECONDS = 1.5;
const FADE_SECONDS = 0.05;
const KEYS_DBFS = -34;
/** From the headphones to the microphone through the air of the simulated room. */
const LOOP_SECONDS = 0.008;
const LOOP_HZ = 2300;
const LOOP_PEAK_DB = 9;

/** A microphone that ships with the product: the narrator of the demo, their room, their keyboard. */
export class SimulatedMicrophone {
  readonly output: GainNode;
  /** What is heard in the headphones comes here, and so far into the microphone as they stand beside it. */
  readonly headphones: GainNode;
  readonly #players: Readonly<Record<Performance, GainNode>>;
  readonly #sources: readonly AudioBufferSourceNode[];

  private constructor(
    private readonly context: AudioContext,
    sounds: Readonly<Record<Performance, AudioBuffer>>,
  ) {
    this.output = context.createGain();
    this.headphones = context.createGain();
    this.headphones.gain.value = 0;
    const air = context.createDelay(0.1);
    air.delayTime.value = LOOP_SECONDS;
    // A loop howls where it is strongest; and no microphone gives more than full scale.
    const ring = context.createBiquadFilter();
    ring.type = 'peaking';
    ring.frequency.value = LOOP_HZ;
    ring.Q.value = 5;
    ring.gain.value = LOOP_PEAK_DB;
    const full = context.createWaveShaper();
    full.curve = new Float32Array([-1, 1]);
    this.headphones.connect(air).connect(ring).connect(full).connect(this.output);
    const made = (Object.keys(sounds) as Performance[]).map((name) => {
      const source = context.createBufferSource();
      source.buffer = sounds[name];
      source.loop = true;
      const gain = context.createGain();
      gain.gain.value = name === 'silence' ? 1 : 0;
      source.connect(gain).connect(this.output);
      source.start();
      return { name, source, gain };
    });
    this.#sources = made.map(({ source }) => source);
    this.#players = Object.fromEntries(made.map(({ name, gain }) => [name, gain])) as Record<Performance, GainNode>;
  }

  static async open(context: AudioContext): Promise<SimulatedMicrophone> {
    const response = await fetch('/api/simulated-microphone').catch(() => null);
    if (!response?.ok) throw new Error('The simulated microphone is made of the demo’s recordings, and this installation has none.');
    const talk = await context.decodeAudioData(await response.arrayBuffer());
    const mono = talk.getChannelData(0);
    const rate = context.sampleRate;
    const [tone] = makeRoomTone([quietest(mono, rate)], rate) as [Float32Array];
    const long = Float32Array.from({ length: TONE_SECONDS * rate }, (_, n) => tone[n % tone.length]!);
    const buffer = (samples: Float32Array): AudioBuffer => {
      const made = context.createBuffer(1, samples.length, rate);
      made.copyToChannel(samples as Float32Array<ArrayBuffer>, 0);
      return made;
    };
    return new SimulatedMicrophone(context, { silence: buffer(long), usual: buffer(withKeys(long, rate)), talk: buffer(mono.slice()) });
  }

  perform(performance: Performance): void {
    const at = this.context.currentTime;
    for (const [name, { gain }] of Object.entries(this.#players)) gain.setTargetAtTime(name === performance ? 1 : 0, at, FADE_SECONDS / 3);
  }

  /** How far the headphones are heard in the microphone: 0 on the head, 1 and more beside it. */
  bringNear(gain: number): void {
    this.headphones.gain.setTargetAtTime(gain, this.context.currentTime, 0.02);
  }

  close(): void {
    for (const source of this.#sources) source.stop();
    this.output.disconnect();
  }
}

/** The quietest stretch: the room without anybody. */
function quietest(sound: Float32Array, rate: number): Float32Array {
  const length = Math.round(QUIET_SECONDS * rate);
  const step = Math.round(0.05 * rate);
  let [best, least] = [0, Infinity];
  for (let at = 0; at + length <= sound.length; at += step) {
    let most = 0;
    for (let n = at; n < at + length; n += step) {
      let sum = 0;
      for (let i = n; i < Math.min(n + step, at + length); i++) sum += sound[i]! ** 2;
      most = Math.max(most, sum);
    }
    if (most < least) [least, best] = [most, at];
  }
  return sound.slice(best, best + length);
}

/** Strokes of keys over a room, the same every time. */
function withKeys(room: Float32Array, rate: number): Float32Array {
  const out = room.slice();
  let state = 7;
  const next = (): number => (state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) / 2 ** 31 - 1;
  for (let at = 0.4 * rate; at < out.length - 0.2 * rate; at += (next() > 0.75 ? 0.8 : 0.19 + 0.05 * next()) * rate) {
    const level = 10 ** ((KEYS_DBFS + 3 * next()) / 20);
    const thump = 180 + 90 * (next() + 1);
    const click = 2600 + 700 * next();
    for (let n = 0; n < 0.06 * rate; n++) {
      const t = n / rate;
      const knock = 0.6 * Math.sin(2 * Math.PI * thump * t) * Math.exp((-t * Math.PI * thump) / 4);
      const tick = (0.4 * next() + 0.4 * Math.sin(2 * Math.PI * click * t)) * Math.exp(-t / 0.004);
      out[Math.round(at) + n]! += level * (knock + tick);
    }
  }
  return out;
}
