import { parseChain } from '@euphonos/dsp';
import { chainToFile, type ChainFile } from './chain-file.js';

const of = (name: string, note: string, treatments: readonly object[]): ChainFile => chainToFile(parseChain({ treatments }), name, note);

const lowCut = (cutoffHz: number, slopeDbPerOctave = 24) => ({ kind: 'high-pass', cutoffHz, slopeDbPerOctave });
/** None of them waits for a profile: they are heard at once, and one with a profile is a choice away. */
const tracked = (reductionDb: number) => ({ kind: 'noise-reduction', mode: 'tracked', reductionDb });

/**
 * Chains to start from, from light to heavy, for what comes to the desk every week. Values are common practice (no source), held down until a
 * clean voice loses next to nothing by them; `npm run bench chains` measures both.
 */
export const startingChains: readonly ChainFile[] = [
  of('Quiet room', 'Rumble out, the floor down a little. For a good recording.', [lowCut(55), tracked(6)]),
  of('Only between the words', 'Words stay as they are; what lies between them sinks softly.', [
    lowCut(50),
    { kind: 'expander', thresholdDb: -50, ratio: 1.5, rangeDb: 10, releaseMs: 250 },
  ]),
  of('Mouth close by', 'Bursts of p and b, harsh s, clicks of lips and tongue.', [
    { kind: 'clicks', sensitivity: 50 },
    { kind: 'plosives' },
    lowCut(55),
    { kind: 'sibilance', thresholdDb: -2, reductionDb: 6 },
  ]),
  of('Ticks and crackle', 'Single clicks, from a mouth, a cable or a clock generator.', [{ kind: 'clicks', sensitivity: 55 }]),
  of('Computer beside the desk', 'A fan: rumble out, steady noise down by 12 dB.', [lowCut(55), tracked(12)]),
  of('Air from the ceiling', 'Broad noise of a vent, and a floor that sinks between the words.', [
    lowCut(55),
    tracked(10),
    { kind: 'expander', thresholdDb: -56, ratio: 1.4, rangeDb: 6, releaseMs: 300 },
  ]),
  of('Hum in the cable', 'Mains hum at 50 Hz with its harmonics, followed as it drifts. At 60 Hz press 6.', [
    { kind: 'hum-lines', baseHz: 50, harmonics: 10 },
  ]),
  of('Buzzing lamp', 'A hard buzz at 100 Hz, followed line by line up to 1.6 kHz.', [{ kind: 'hum-lines', baseHz: 100, harmonics: 16 }]),
  of('Street behind the window', 'Traffic that rumbles and hisses behind glass.', [lowCut(55), tracked(10)]),
  of('Wind on the path', 'Gusts on the microphone and what they leave.', [
    { kind: 'plosives', reductionDb: 24 },
    lowCut(55, 36),
    tracked(10),
  ]),
  of('Bad line', 'A call: clicks, hum of somebody’s charger, noise that comes and goes.', [
    { kind: 'clicks', sensitivity: 55 },
    { kind: 'hum-lines', baseHz: 50, harmonics: 6 },
    tracked(14),
  ]),
  of(
    'Echoing hall',
    'The tail of a large room sinks a little after each word; within words it stays. For more, add Room and listen for its price.',
    [{ kind: 'expander', thresholdDb: -30, ratio: 1.6, rangeDb: 12, kneeDb: 10, attackMs: 5, releaseMs: 120 }],
  ),
  of('Recorded too hot', 'Flat tops rounded again, in the place of what was cut off.', [{ kind: 'clipping' }]),
  of('Beside running water', 'Loud broad noise: as much as a voice bears, with one control.', [
    lowCut(55),
    { kind: 'noise-reduction', mode: 'voice', reductionDb: 16 },
  ]),
];
