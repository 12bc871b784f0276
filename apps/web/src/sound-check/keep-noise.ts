import { profileToFile, type NoiseProfile } from '@euphonos/dsp';
import { format } from 'date-fns';
import { keepProfile } from '../api/client.js';

/** Keeps the noise of the silence, so that takes are reduced by it, here and later. Its id; null where it could not be kept. */
export async function keepNoise(profile: NoiseProfile, device: string): Promise<string | null> {
  const name = `Silence of ${format(new Date(), 'd MMM, HH:mm')}`;
  const view = await keepProfile(profileToFile(profile, name, device)).catch(() => null);
  return view?.id ?? null;
}
