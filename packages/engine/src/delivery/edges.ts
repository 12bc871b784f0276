import { EngineError } from '../errors.js';

/** What is put before or behind the sound of a delivery. */
export interface Edge {
  readonly seconds: number;
  /** Nothing at all; or the room, as quiet as it is where nobody speaks in what is delivered. */
  readonly fill: 'silence' | 'room-tone';
}

export interface Edges {
  readonly head: Edge | null;
  readonly tail: Edge | null;
}

export const NO_EDGES: Edges = { head: null, tail: null };
export const EDGE_RANGE_SECONDS = [0.1, 30] as const;

export const edgeWords = ({ seconds, fill }: Edge): string => `${seconds} s of ${fill === 'silence' ? 'silence' : 'room tone'}`;
export const edgeSeconds = ({ head, tail }: Edges): number => (head?.seconds ?? 0) + (tail?.seconds ?? 0);

/** Reads one from untrusted JSON; nothing is no edge. @throws {EngineError} `target-range` */
export function requireEdge(json: unknown, what: string): Edge | null {
  if (json === undefined || json === null) return null;
  const { seconds, fill } = (typeof json === 'object' ? json : {}) as Partial<Record<keyof Edge, unknown>>;
  const [least, most] = EDGE_RANGE_SECONDS;
  if (typeof seconds !== 'number' || !(seconds >= least && seconds <= most) || (fill !== 'silence' && fill !== 'room-tone'))
    throw new EngineError(
      'target-range',
      `${what} is { "seconds": ${least} to ${most}, "fill": "silence" or "room-tone" }, or null; ${JSON.stringify(json)} was given.`,
      { given: json },
    );
  return { seconds, fill };
}
