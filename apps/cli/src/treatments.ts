import { treatments } from '@euphonos/dsp';

/** The registry as data: kinds with their parameters. */
export const treatmentsAsJson = () =>
  treatments.map(({ kind, title, sentence, needsNoiseProfile, parameters, choices, lists, background }) => ({
    kind,
    title,
    sentence,
    needsNoiseProfile,
    parameters,
    choices,
    lists,
    // Of noise reduction only the deep network.
    background: typeof background === 'function' ? 'by settings' : background,
  }));
