/** A gate opens so much above where it closes: four or five decibels are common practice, no source. */
export const GATE_HYSTERESIS_DB = 4.5;
