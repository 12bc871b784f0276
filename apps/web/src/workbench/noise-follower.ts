import { parametersOf, type ChainSpec, type NoiseProfile } from '@euphonos/dsp';
import { chainBeforeProfile, type NoisePassageSpan, type NoiseSource } from '@euphonos/engine';

/** A control moved before the noise reduction counts when it has rested for so long. */
const REST_MS = 220;

interface Asked {
  /** Takes the profile of passages as they come to the noise reduction of a chain. */
  readonly profile: (spans: readonly NoisePassageSpan[], spec: ChainSpec) => Promise<NoiseProfile>;
  /** Reads a profile that was kept. */
  readonly kept: (profileId: string) => Promise<NoiseProfile>;
  readonly take: (profile: NoiseProfile | null) => void;
  readonly onTrouble: (error: unknown) => void;
}

/**
 * Keeps the profile that of the track's noise: of its passages as they come to the noise reduction, or the one that was
 * kept. Other passages are profiled at once; a control moved before the noise reduction counts when it rests, and what
 * was known weighs until then.
 */
export class NoiseFollower {
  /** Which noise is profiled, through which treatments. */
  #wanted: string | null = null;
  #rest: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly asked: Asked) {}

  /** `plan` is what the profile of passages is taken from, and where it counts; `of` names what else it depends on. */
  follow(
    noise: NoiseSource | null,
    spec: ChainSpec,
    plan: readonly NoisePassageSpan[] = noise?.kind === 'passages' ? noise.spans : [],
    of = '',
  ): void {
    const source = noise && JSON.stringify(noise.kind === 'kept' ? noise.profileId : plan);
    // A kept profile was taken through what stood before it then.
    const through =
      noise?.kind === 'passages'
        ? JSON.stringify(chainBeforeProfile(spec).treatments.map((settings) => [settings.kind, parametersOf(settings)]))
        : '';
    const wanted = source && `${source} ${through} ${of}`;
    if (wanted === this.#wanted) return;
    const sameNoise = source !== null && this.#wanted?.startsWith(`${source} `);
    this.#wanted = wanted;
    clearTimeout(this.#rest);
    if (!noise) return this.asked.take(null);
    const ask = (): void => {
      (noise.kind === 'kept' ? this.asked.kept(noise.profileId) : this.asked.profile(plan, spec)).then(
        (profile) => {
          if (this.#wanted === wanted) this.asked.take(profile);
        },
        (error: unknown) => {
          if (this.#wanted === wanted) {
            this.#wanted = null;
            // What was known is of another noise: nothing is better than to weigh by that under a new name.
            if (!sameNoise) this.asked.take(null);
          }
          this.asked.onTrouble(error);
        },
      );
    };
    if (sameNoise) this.#rest = setTimeout(ask, REST_MS);
    else ask();
  }

  close(): void {
    clearTimeout(this.#rest);
  }
}
