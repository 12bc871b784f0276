import { EngineError } from '../errors.js';

/** A picture that deliveries have, where their format holds one: bytes in the store, by their SHA-256. */
export interface Cover {
  readonly sha256: string;
  readonly sizeBytes: number;
  readonly type: 'image/jpeg' | 'image/png';
}

export const MOST_COVER_BYTES = 5 << 20;

/** Reads a cover from untrusted JSON; nothing is none. @throws {EngineError} `target-file` */
export function requireCover(json: unknown): Cover | null {
  if (json === undefined || json === null) return null;
  const { sha256, sizeBytes, type } = (typeof json === 'object' ? json : {}) as Partial<Record<keyof Cover, unknown>>;
  const good =
    typeof sha256 === 'string' &&
    /^[0-9a-f]{64}$/.test(sha256) &&
    Number.isSafeInteger(sizeBytes) &&
    (sizeBytes as number) > 0 &&
    (sizeBytes as number) <= MOST_COVER_BYTES &&
    (type === 'image/jpeg' || type === 'image/png');
  if (!good)
    throw new EngineError('target-file', 'A cover is a JPEG or PNG of up to 5 MB, named by the SHA-256 of its bytes.', { given: json });
  return { sha256, sizeBytes: sizeBytes as number, type };
}

/** What a picture is by its first bytes (ITU-T T.81 B.1.1.3, ISO/IEC 15948 5.2); undefined for anything else. */
export function coverType(bytes: Uint8Array): Cover['type'] | undefined {
  const begins = (...values: readonly number[]): boolean => values.every((value, i) => bytes[i] === value);
  if (begins(0xff, 0xd8, 0xff)) return 'image/jpeg';
  return begins(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a) ? 'image/png' : undefined;
}
