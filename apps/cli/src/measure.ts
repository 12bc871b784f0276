import { SoundMeasure, type SoundFigures } from '@euphonos/dsp';
import { decodeSound, loadKernels, measureSound, newReport, probeSound, readingNotes } from '@euphonos/media';

/** Measures a sound file at its own sample rate, all channels. What was odd about the file goes to `note`. */
export async function measureFile(path: string, note: (text: string) => void): Promise<SoundFigures> {
  const facts = await probeSound(path);
  const report = newReport();
  const measure = new SoundMeasure(loadKernels(), facts.sampleRateHz, facts.channels, facts.loudnessWeights);
  const figures = await measureSound(decodeSound(path, facts, {}, report), measure);
  readingNotes(facts, report, facts.sampleRateHz).forEach(note);
  return figures;
}
