const BROWSERS = [
  [/Edg\//, 'Edge'],
  [/Firefox\//, 'Firefox'],
  [/Chrom(e|ium)\//, 'Chromium'],
  [/Safari\//, 'Safari'],
] as const;
const SYSTEMS = [
  [/Android/, 'Android'],
  [/iPhone|iPad/, 'iOS'],
  [/Windows/, 'Windows'],
  [/Mac OS X/, 'macOS'],
  [/Linux/, 'Linux'],
] as const;

/** What a browser says of itself, in two words; what it does not say is not guessed. */
export function deviceWords(agent: string): string {
  const name = (of: readonly (readonly [RegExp, string])[]): string | undefined => of.find(([sign]) => sign.test(agent))?.[1];
  return [name(BROWSERS), name(SYSTEMS)].filter(Boolean).join(' on ') || 'another program';
}
