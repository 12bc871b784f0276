import { isDocumentError, parseDocument, type SessionDocument } from '@euphonos/engine';
import type { ValueTransformer } from 'typeorm';

/**
 * Documents as they are read from the database: what an older version did not know yet takes its default, so that no
 * setting is missing where sound is made. One that cannot be read at all (of a newer version) stays as it is, so that the
 * list of sessions still opens; whoever renders it is told.
 */
export const storedDocument: ValueTransformer = {
  to: (document: SessionDocument | null) => document,
  from: (value: unknown): unknown => {
    if (value === null) return null;
    try {
      return parseDocument(value);
    } catch (error) {
      if (!isDocumentError(error)) throw error;
      return value;
    }
  },
};
