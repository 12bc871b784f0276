/** A wrong call: one line on stderr, exit code 2. */
export class UsageError extends Error {
  constructor(message: string) {
    super(message);
    this.name = 'UsageError';
  }
}

/** "START-END" in seconds, several with commas, or "auto": the best passage with noise alone that the survey finds. */
export function parseNoise(text: string): { readonly passages: readonly { startSeconds: number; endSeconds: number }[] } | 'auto' {
  if (text === 'auto') return 'auto';
  const passages = text.split(',').map((part) => {
    const match = /^(\d+(?:\.\d+)?)-(\d+(?:\.\d+)?)$/.exec(part.trim());
    const [startSeconds, endSeconds] = [Number(match?.[1]), Number(match?.[2])];
    if (!match || startSeconds >= endSeconds)
      throw new UsageError(`--noise takes START-END in seconds, such as 0.5-2.25 or 0.5-2.25,7-8.5, or auto; "${text}" was given.`);
    return { startSeconds, endSeconds };
  });
  return { passages };
}

/** A number option, or undefined when it was not given. */
export function parseNumber(name: string, text: string | undefined, min: number, max: number): number | undefined {
  if (text === undefined) return undefined;
  const value = Number(text);
  if (text.trim() === '' || !(value >= min && value <= max))
    throw new UsageError(`--${name} goes from ${min} to ${max}; "${text}" was given.`);
  return value;
}

/** "1,2": one or two channels counted from 1; returned counted from 0. */
export function parseChannels(text: string | undefined): number[] | undefined {
  if (text === undefined) return undefined;
  const channels = text.split(',').map((part) => (/^\d{1,2}$/.test(part) ? Number(part) - 1 : -1));
  if (channels.length > 2 || channels.some((c) => c < 0) || new Set(channels).size !== channels.length)
    throw new UsageError(`--channels takes one or two channels counted from 1, such as 1 or 1,2; "${text}" was given.`);
  return channels;
}
