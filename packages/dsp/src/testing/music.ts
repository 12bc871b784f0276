import { randomNumbers, RATE_HZ } from './signals.js';

/**
 * A piece that nobody plays twice alike: chords of four bars over and over, each note early or late by up to 12 ms, louder or softer by up to
 * 3 dB, with another melody every time, over the hiss of a room. Nothing of it is periodic to the sample.
 */
export function playedMusic(seconds: number, seed: number, beatSeconds = 0.63): Float32Array {
  const rate = RATE_HZ;
  const next = randomNumbers(seed);
  const random = (): number => (next() + 1) / 2;
  const out = Float32Array.from({ length: Math.round(seconds * RATE_HZ) }, () => 0.0006 * (2 * random() - 1));
  const chords = [
    [196, 246.9, 293.7],
    [164.8, 196, 246.9],
    [130.8, 164.8, 196],
    [146.8, 185, 220],
  ];
  const note = (at: number, hz: number, db: number, decay: number): void => {
    const from = Math.round((at + 0.024 * (random() - 0.5)) * rate);
    const gain = 10 ** ((db + 6 * (random() - 0.5)) / 20);
    const attack = 0.004 * rate;
    const first = Math.max(0, -from);
    const last = Math.min(out.length - from, Math.round(4 * decay * rate));
    for (let partial = 1; partial <= 3; partial++) {
      // A turning pointer that shrinks: a partial that dies away, without a sine a sample.
      const angle = (2 * Math.PI * hz * partial) / rate;
      const shrink = Math.exp(-partial / (decay * rate));
      const [turnRe, turnIm] = [shrink * Math.cos(angle), shrink * Math.sin(angle)];
      const phase = 2 * Math.PI * random();
      let re = (gain * Math.cos(phase)) / partial;
      let im = (gain * Math.sin(phase)) / partial;
      for (let n = first; n < last; n++) {
        out[from + n]! += n < attack ? (im * n) / attack : im;
        const turned = re * turnRe - im * turnIm;
        im = re * turnIm + im * turnRe;
        re = turned;
      }
    }
  };
  for (let beat = 0; beat * beatSeconds < seconds; beat++) {
    const chord = chords[Math.floor(beat / 4) % 4]!;
    if (beat % 4 === 0) for (const hz of chord) note(beat * beatSeconds, hz / 2, -30, 1.2);
    note(beat * beatSeconds, chord[Math.floor(3 * random())]! * 2, -26, 0.5);
    if (random() > 0.4) note((beat + 0.5) * beatSeconds, chord[Math.floor(3 * random())]! * 2, -30, 0.4);
  }
  return out;
}
