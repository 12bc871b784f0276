import { joined, kernels, mixed, noise, randomNumbers, RATE_HZ, silence, sine, voice } from '../testing/signals.js';
import { checkSound } from './check.js';
import { FeedbackGuard } from './feedback.js';
import { gateTrack } from './gate-track.js';
import { Listening } from './listening.js';
import { roomShareDb } from './room-share.js';
import { gateThresholds, wordOnsets } from './thresholds.js';

const { exp, sin, PI } = Math;
const gain = (db: number): number => 10 ** (db / 20);

/** Keys on a desk: short knocks with a click, `peakDbfs` at their peak. */
function keys(seconds: number, peakDbfs: number, seed = 3): Float32Array {
  const next = randomNumbers(seed);
  const out = new Float32Array(Math.round(seconds * RATE_HZ));
  for (let at = 20_000; at + 4800 < out.length; at += 7000 + Math.round(1500 * next()))
    for (let n = 0; n < 3600; n++) {
      const t = n / RATE_HZ;
      out[at + n]! += gain(peakDbfs) * (0.5 * next() * exp(-t / 0.008) + 0.5 * sin(2 * PI * 3100 * t) * exp(-t / 0.003));
    }
  return out;
}
const quiet = (seconds: number, db = -64, seed = 1): Float32Array => noise(db, seconds, seed);
/** Words at about -20 dBFS RMS, with pauses in which a gate closes. */
const talk = (seconds: number, seed = 5): Float32Array => {
  const words = voice(1.2, 130, seed).map((x) => 2 * x);
  const parts: Float32Array[] = [];
  for (let at = 0; at < seconds; at += 1.8) parts.push(words, silence(0.6));
  return joined(...parts).subarray(0, Math.round(seconds * RATE_HZ));
};

describe('a listen tells when it is enough', () => {
  const feed = (listening: Listening, sound: Float32Array): void => {
    for (let at = 0; at < sound.length; at += 480) listening.process(sound.subarray(at, at + 480));
  };

  test('silence: four seconds of it; a knock lets it begin anew, and what came before does not count', () => {
    const listening = new Listening('silence', RATE_HZ);
    feed(listening, quiet(2));
    expect(listening.state).toMatchObject({ enough: false, hint: null });
    feed(listening, mixed(quiet(0.5, -64, 2), sine(400, -30, 0.5)));
    feed(listening, quiet(2, -64, 3));
    expect(listening.state).toMatchObject({ enough: false });
    expect(listening.state.fromFrame).toBeGreaterThan(2.4 * RATE_HZ);
    feed(listening, quiet(3, -64, 4));
    expect(listening.state).toMatchObject({ enough: true, share: 1, hint: null });
  });

  test('the usual noise: some sounds, or long enough without any', () => {
    const typing = new Listening('usual', RATE_HZ, -64);
    feed(typing, mixed(quiet(7), keys(7, -30)));
    expect(typing.state.enough).toBe(true);
    expect(typing.state.count).toBeGreaterThan(20);
    const nothing = new Listening('usual', RATE_HZ, -64);
    feed(nothing, quiet(7));
    expect(nothing.state).toMatchObject({ enough: false, hint: 'nothing-heard', count: 0 });
    feed(nothing, quiet(8.5));
    expect(nothing.state.enough).toBe(true);
  });

  test('speech: ten seconds of talk; clipping is told at once', () => {
    const listening = new Listening('speech', RATE_HZ, -64);
    feed(listening, quiet(6));
    expect(listening.state.hint).toBe('more-talk');
    feed(listening, mixed(talk(40), quiet(40)));
    expect(listening.state.enough).toBe(true);
    feed(listening, sine(200, 0, 0.1));
    expect(listening.state.hint).toBe('too-loud');
  });
});

describe('thresholds', () => {
  const track = (sound: Float32Array) => gateTrack(kernels, sound, RATE_HZ, 'all');

  test('the detector reads a sine at its RMS', () => {
    const levels = track(sine(500, -17, 1));
    expect(Math.abs(levels[500]! + 20)).toBeLessThan(0.6);
  });

  test('closes above floor and keys, opens 4.5 dB higher (common practice, no source), under the softest beginning', () => {
    const made = gateThresholds(
      { silence: track(quiet(5)), usual: track(mixed(quiet(8), keys(8, -46))), speech: track(mixed(talk(20), quiet(20))) },
      'all',
    );
    expect(made.shuts).toBe('all');
    expect(made.openDb - made.closeDb).toBeCloseTo(4.5, 5);
    expect(made.closeDb).toBeGreaterThan(made.usualDb!);
    expect(made.openDb).toBeLessThan(made.softestDb);
  });

  test('keys as loud as words: it says that it is impossible, and goes by the silence', () => {
    const made = gateThresholds(
      { silence: track(quiet(5)), usual: track(mixed(quiet(8), keys(8, -12))), speech: track(mixed(talk(20), quiet(20))) },
      'all',
    );
    expect(made.shuts).toBe('silence');
    expect(made.marginDb).toBeLessThan(0);
    expect(made.closeDb).toBeGreaterThan(made.floorDb);
    expect(made.closeDb).toBeLessThan(made.usualDb!);
  });

  test('words that hardly stand out of the silence: none', () => {
    const made = gateThresholds(
      {
        silence: track(quiet(5, -30)),
        usual: null,
        speech: track(
          mixed(
            talk(20).map((x) => 0.3 * x),
            quiet(20, -30),
          ),
        ),
      },
      'all',
    );
    expect(made.shuts).toBe('none');
  });

  test('a beginning is what is reached within what is heard ahead and what may be missed', () => {
    const levels = new Float32Array(1000).fill(-80);
    // 100 ms of a soft beginning, then the word.
    levels.fill(-50, 400, 500);
    levels.fill(-25, 500, 800);
    expect(wordOnsets(levels, -75, 40)).toEqual([-50]);
    expect(wordOnsets(levels, -75, 100)).toEqual([-25]);
  });
});

describe('how much of the room follows a word', () => {
  /** A room of 0.5 s, its tail so much under the direct sound (direct-to-reverberant ratio). */
  const inRoom = (dry: Float32Array, directDb: number): Float32Array => {
    const next = randomNumbers(9);
    const taps = Array.from(
      { length: 260 },
      (_, i) => [400 + 80 * i + Math.round(30 * next()), next() * 10 ** ((-3 * (400 + 80 * i)) / (0.5 * RATE_HZ))] as const,
    );
    const scale = gain(-directDb) / taps.reduce((sum, [, level]) => sum + level * level, 0) ** 0.5;
    const out = dry.slice();
    for (const [delay, level] of taps) for (let n = delay; n < out.length; n++) out[n]! += scale * level * dry[n - delay]!;
    return out;
  };

  test('rises with the distance: dry, near and far', () => {
    const dry = talk(20);
    const share = (sound: Float32Array): number => roomShareDb(kernels, mixed(sound, quiet(20, -75)), RATE_HZ, -75)!;
    const [none, near, far] = [share(dry), share(inRoom(dry, 12)), share(inRoom(dry, 2))];
    expect(none).toBeLessThan(-35);
    expect(near).toBeGreaterThan(none + 3);
    expect(far).toBeGreaterThan(near + 6);
    expect(far).toBeGreaterThan(-24);
    expect(roomShareDb(kernels, quiet(10), RATE_HZ, -64)).toBeNull();
  });
});

describe('three listens', () => {
  const hum = mixed(sine(50, -52, 12), sine(150, -58, 12));
  const heard = {
    silence: mixed(quiet(5), hum.subarray(0, 5 * RATE_HZ)),
    usual: mixed(mixed(quiet(4, -64, 3), hum.subarray(0, 4 * RATE_HZ)), keys(4, -44)),
    speech: mixed(mixed(talk(12), quiet(12, -64, 4)), hum),
  };
  const check = checkSound(kernels, RATE_HZ, heard);

  test('figures are those of what was put in', () => {
    const { figures } = check;
    // Lines of -55 and -61 dBFS RMS, noise of -64.
    expect(Math.abs(figures.floorDbfs + 53.6)).toBeLessThan(1);
    expect(figures.hum).toMatchObject({ source: 'mains' });
    expect(Math.abs(figures.hum!.baseHz - 50)).toBeLessThan(0.2);
    expect(Math.abs(figures.speechDbfs + 20)).toBeLessThan(6);
    expect(figures.speechToNoiseDb).toBeCloseTo(figures.speechDbfs - figures.floorDbfs, 5);
    expect(figures.clipped).toBe(0);
    expect(figures.riseDb).toBeLessThan(6);
  });

  test('the chain: what the silence asks for, a gate from what comes through that, and the level', () => {
    const { chain, thresholds, figures } = check;
    expect(chain.treatments.map(({ kind }) => kind)).toEqual(
      expect.arrayContaining(['high-pass', 'hum-lines', 'noise-reduction', 'gate', 'compressor', 'limiter']),
    );
    const gate = chain.treatments.find(({ kind }) => kind === 'gate')!;
    expect([gate['openDb'], gate['closeDb']]).toEqual([thresholds.openDb, thresholds.closeDb]);
    // Measured behind the notches and the reduction: the floor is far under that of the room.
    expect(thresholds.floorDb).toBeLessThan(figures.floorDbfs - 10);
    expect(new Set(chain.treatments.map(({ id }) => id)).size).toBe(chain.treatments.length);
  });
});

describe('a loop through the headphones', () => {
  /** What a microphone hears of a talker and of its own sound, `delayFrames` later and so much louder. */
  const looped = (source: Float32Array, loopDb: number, delayFrames = 1200): Float32Array => {
    const out = source.slice();
    // A resonance: a loop howls where it is strongest.
    let [a, b] = [0, 0];
    const r = 0.99;
    const w = (2 * PI * 1900) / RATE_HZ;
    for (let n = delayFrames; n < out.length; n++) {
      const x = out[n - delayFrames]!;
      const y = (1 - r) * x + 2 * r * Math.cos(w) * a - r * r * b;
      [a, b] = [y, a];
      out[n] = Math.max(-1, Math.min(1, out[n]! + gain(loopDb) * y));
    }
    return out;
  };
  const noticed = (sound: Float32Array): number | null => {
    const guard = new FeedbackGuard(kernels, RATE_HZ);
    for (let at = 0; at + 128 <= sound.length; at += 128) if (guard.process(sound.subarray(at, at + 128)) !== null) return at / RATE_HZ;
    return null;
  };

  test('is noticed before it is at full scale for long', () => {
    const sound = looped(mixed(talk(8), quiet(8)), 12);
    const loudFrom = sound.findIndex((x) => Math.abs(x) > 0.7) / RATE_HZ;
    const at = noticed(sound);
    expect(at).not.toBeNull();
    expect(at!).toBeLessThan(loudFrom + 0.6);
  });

  test('talk alone, two voices, keys and noise are none', () => {
    for (const sound of [
      mixed(talk(8), quiet(8)),
      mixed(
        talk(8, 8).map((x) => 3 * x),
        voice(8, 240, 4),
      ),
      mixed(keys(6, -10), quiet(6)),
      quiet(6, -20),
    ])
      expect(noticed(sound)).toBeNull();
  });
});
