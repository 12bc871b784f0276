// The bed of the demo, without any recording: see make-demo.mjs.

/**
 * The bed: a slow piece for a plucked and a held string, invented for this tour, on two channels. Five bars of four chords, each note a sum
 * of a few partials that die away, the higher ones sooner.
 */
export function bed(rateHz) {
  const beat = 0.8;
  const bars = [
    [146.83, 220, 293.66, 349.23],
    [116.54, 174.61, 233.08, 293.66],
    [130.81, 196, 261.63, 329.63],
    [110, 164.81, 220, 277.18],
  ];
  const frames = Math.round(rateHz * (beat * 4 * 10 + 3));
  const channels = [new Float32Array(frames), new Float32Array(frames)];
  const note = (atSeconds, hz, db, pan, decaySeconds, attackSeconds) => {
    const from = Math.round(atSeconds * rateHz);
    const length = Math.min(frames - from, Math.round(6 * decaySeconds * rateHz));
    for (let n = 0; n < length; n++) {
      const t = n / rateHz;
      const rise = Math.min(1, t / attackSeconds);
      let x = 0;
      for (let partial = 1; partial <= 5; partial++)
        x +=
          Math.exp((-t * Math.sqrt(partial)) / decaySeconds) *
          (Math.sin(2 * Math.PI * hz * partial * (1 + 0.0003 * partial) * t) / partial ** 1.6);
      x *= rise * 10 ** (db / 20);
      channels[0][from + n] += x * Math.cos(((pan + 1) * Math.PI) / 4);
      channels[1][from + n] += x * Math.sin(((pan + 1) * Math.PI) / 4);
    }
  };
  for (let bar = 0; bar < 10; bar++) {
    const chord = bars[bar % bars.length];
    const at = bar * 4 * beat;
    note(at, chord[0] / 2, -22, 0, 2.6, 0.25);
    for (const [i, step] of [0, 2, 1, 3, 2, 1].entries())
      note(at + (i * 4 * beat) / 6, chord[step] * (bar % 2 ? 2 : 1), -26, i % 2 ? 0.5 : -0.5, 0.7, 0.006);
  }
  // It ends by itself.
  const fade = 2.5 * rateHz;
  for (const channel of channels) for (let n = 0; n < fade; n++) channel[frames - 1 - n] *= n / fade;
  return channels;
}
