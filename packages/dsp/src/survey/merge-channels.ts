import type { FindingFacts } from './findings.js';
import type { Fact } from './judge-findings.js';

/** Levels that differ by more than this are told by channel; frequencies and times likewise. */
const SAME_DB = 3;
const SAME_HUM_HZ = 0.12;
const SAME_SHARE = 0.15;
const SAME_PLACE_SECONDS = 0.03;
/** So many of the places of the one must be places of the other. */
const SAME_PLACES = 0.5;

/** A fact of one channel (counted from 1), or of all. */
export interface PlacedFact {
  readonly fact: FindingFacts;
  readonly certainty: number;
  readonly channel: number | undefined;
}

type Of<K extends FindingFacts['kind']> = Extract<FindingFacts, { kind: K }>;

/** Whether the same is told of two channels. `sameTalk`: one voice is heard on both. */
function same(a: FindingFacts, b: FindingFacts, sameTalk: boolean): boolean {
  if (a.kind !== b.kind) return false;
  const near = (x: number, y: number, limit: number): boolean => Math.abs(x - y) <= limit;
  switch (a.kind) {
    case 'noise-floor':
    case 'hiss':
    case 'rumble':
      return near(a.dbfs, (b as typeof a).dbfs, SAME_DB);
    case 'speech-level':
      return sameTalk && near(a.dbfs, (b as typeof a).dbfs, SAME_DB);
    case 'speech-to-noise':
      return sameTalk && near(a.db, (b as typeof a).db, SAME_DB);
    case 'hum':
      return near(a.baseHz, (b as typeof a).baseHz, SAME_HUM_HZ);
    case 'room':
      return sameTalk && near(a.decaySeconds / (b as typeof a).decaySeconds, 1, 2 * SAME_SHARE);
    case 'bandwidth':
      return near(a.hz / (b as typeof a).hz, 1, SAME_SHARE);
    case 'clipping':
    case 'dropouts':
    case 'clicks':
    case 'plosives':
    case 'sibilance':
      return samePlaces(placesOf(a), placesOf(b as typeof a));
    default:
      return true;
  }
}

const placesOf = (fact: Of<'clipping' | 'dropouts' | 'clicks' | 'plosives' | 'sibilance'>): readonly number[] =>
  'atSeconds' in fact ? fact.atSeconds : fact.spans.map(({ startSeconds }) => startSeconds);

/** Whether most places of either are places of the other. Both in their order. */
function samePlaces(a: readonly number[], b: readonly number[]): boolean {
  let met = 0;
  for (let i = 0, j = 0; i < a.length && j < b.length;) {
    const apart = a[i]! - b[j]!;
    if (Math.abs(apart) <= SAME_PLACE_SECONDS) {
      met++;
      i++;
      j++;
    } else if (apart < 0) i++;
    else j++;
  }
  return met >= SAME_PLACES * Math.max(a.length, b.length);
}

/**
 * Facts by channel to facts of the recording: what all channels have alike is told once, as the first of them has it; everything
 * else of the channel that has it. Channels stand with the loudest first.
 */
export function mergeChannels(
  channels: readonly { readonly channel: number; readonly facts: readonly Fact[] }[],
  sameTalk: boolean,
): PlacedFact[] {
  const [first, ...others] = channels;
  if (!first) return [];
  const told = new Set<FindingFacts>();
  const merged: PlacedFact[] = [];
  for (const [fact, certainty] of first.facts) {
    const alike = others.map(({ facts }) => facts.find(([other]) => !told.has(other) && same(fact, other, sameTalk)));
    if (alike.some((other) => other === undefined)) continue;
    for (const [other] of [[fact], ...alike] as Fact[]) told.add(other);
    merged.push({ fact, certainty: Math.max(certainty, ...alike.map((other) => other![1])), channel: undefined });
  }
  const inOrder = [...channels].sort((a, b) => a.channel - b.channel);
  for (const { channel, facts } of inOrder)
    for (const [fact, certainty] of facts) if (!told.has(fact)) merged.push({ fact, certainty, channel });
  return merged;
}
