import type { TreatmentDefinition } from './definition.js';
import { bleed } from './bleed/bleed.js';
import { breaths } from './breaths/breaths.js';
import { channels } from './channels/channels.js';
import { clicks } from './clicks/clicks.js';
import { clipping } from './clipping/clipping.js';
import { compressor } from './compressor/compressor.js';
import { expander } from './expander/expander.js';
import { gate } from './gate/gate.js';
import { highPass } from './high-pass/high-pass.js';
import { humLines } from './hum-lines/hum-lines.js';
import { humNotch } from './hum-notch/hum-notch.js';
import { levelling } from './levelling/levelling.js';
import { limiter } from './limiter/limiter.js';
import { noiseReduction } from './noise-reduction/noise-reduction.js';
import { pauses } from './pauses/pauses.js';
import { plosives } from './plosives/plosives.js';
import { room } from './room/room.js';
import { sibilance } from './sibilance/sibilance.js';
import { spots } from './spots/spots.js';
import { underSpeech } from './under-speech/under-speech.js';
import { tone } from './tone/tone.js';

/**
 * Every treatment, in the usual order of work. Adding one is adding its folder and its line here. Clipping comes first: any
 * filter, the one that takes out an offset too, bends flat tops. Bursts come before the high-pass that would hide them.
 * Breaths and pauses come after the noise reduction, which learns the noise from what lies between the words; the price is
 * that all before them is rendered in the background while they are there.
 */
const definitions = [
  clipping,
  clicks,
  spots,
  channels,
  plosives,
  highPass,
  humNotch,
  humLines,
  noiseReduction,
  room,
  expander,
  gate,
  bleed,
  breaths,
  pauses,
  tone,
  sibilance,
  levelling,
  underSpeech,
  compressor,
  limiter,
] as const;

/** Names that a chain may use. */
export type TreatmentKind = (typeof definitions)[number]['kind'];

export const treatments: readonly TreatmentDefinition<TreatmentKind>[] =
  definitions as unknown as readonly TreatmentDefinition<TreatmentKind>[];

export const treatmentKinds: readonly TreatmentKind[] = treatments.map(({ kind }) => kind);

/** The definition of a kind, or undefined when there is none. */
export const findTreatment = (kind: string): TreatmentDefinition<TreatmentKind> | undefined =>
  treatments.find((treatment) => treatment.kind === kind);

/** The definition of a known kind. */
export const treatmentOf = (kind: TreatmentKind): TreatmentDefinition<TreatmentKind> => findTreatment(kind)!;
