import type { Finding, FindingFacts, FindingKind } from './findings.js';
import { suggestionFor } from './suggest.js';

/** More channels than these are not listened to. */
export const MOST_SURVEYED_CHANNELS = 8;

/** What lies between words: told of all channels together, and of each by itself where somebody else talks on it. */
const BETWEEN_WORDS: ReadonlySet<FindingKind> = new Set(['noise-passages', 'pauses', 'breaths', 'gap-sounds']);

/** How bad a finding is among those of its kind; one treatment must do for all channels of a track. */
function severity(fact: FindingFacts): number {
  switch (fact.kind) {
    case 'noise-floor':
    case 'hiss':
    case 'rumble':
      return fact.dbfs;
    case 'clipping':
      return fact.levelDbfs;
    case 'room':
      return fact.decaySeconds;
    case 'sibilance':
      return fact.db;
    default:
      return 0;
  }
}

/** The findings with what would mend each: of several of one kind that need it the worst decides, except where each needs its own. */
export function withSuggestions<F extends FindingFacts>(facts: readonly F[]): (F & Pick<Finding, 'suggestion'>)[] {
  return facts.map((fact) => {
    const alike = facts.filter(({ kind }) => kind === fact.kind);
    const worst = alike.reduce((most, other) => (severity(other) > severity(most) ? other : most), fact);
    const own = suggestionFor(fact, facts);
    return { ...fact, suggestion: own && fact.kind !== 'hum' ? suggestionFor(worst, facts) : own };
  });
}

/** Whether somebody talks on one channel while others are silent there: people with a channel of their own. */
export const peopleApart = (findings: readonly Finding[]): boolean =>
  findings.some(({ kind, channel }) => BETWEEN_WORDS.has(kind) && channel !== undefined);

/**
 * The findings that concern a track.
 * @param channels which ones of the recording it uses, counted from 0; what lies between words is told of several as of all together.
 */
export function findingsFor(findings: readonly Finding[], channels: readonly number[]): Finding[] {
  const own = channels.length === 1 ? channels[0]! + 1 : undefined;
  const apart = peopleApart(findings);
  const concerns = (finding: Finding): boolean => {
    if (finding.kind === 'channel') return own === undefined;
    if (BETWEEN_WORDS.has(finding.kind)) return finding.channel === (apart ? own : undefined);
    return finding.channel === undefined || channels.includes(finding.channel - 1);
  };
  return withSuggestions(findings.filter(concerns));
}
