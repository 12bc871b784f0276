import { treatmentOf } from '../treatments/registry.js';
import type { TreatmentSettings } from '../chain/chain-spec.js';
import type { SpanSeconds } from '../span-seconds.js';
import type { ListRow } from '../treatments/definition.js';
import type { Finding } from './findings.js';

/** A finding of a recording that lies later by so many seconds on what it is put on: its places, and those in what would mend it. */
export function moveFinding(finding: Finding, bySeconds: number): Finding {
  if (bySeconds === 0) return finding;
  const moved: Record<string, unknown> = { ...finding };
  if ('spans' in finding) moved['spans'] = finding.spans.map((span: SpanSeconds) => movedRow(span, bySeconds));
  if ('atSeconds' in finding) moved['atSeconds'] = finding.atSeconds.map((at) => at + bySeconds);
  moved['suggestion'] = finding.suggestion && movedSettings(finding.suggestion, bySeconds);
  return moved as unknown as Finding;
}

const PLACES = ['startSeconds', 'endSeconds', 'atSeconds'] as const;

function movedRow<Row extends object>(row: Row, bySeconds: number): Row {
  const moved = { ...row } as Record<string, unknown>;
  for (const name of PLACES) if (typeof moved[name] === 'number') moved[name] = (moved[name] as number) + bySeconds;
  return moved as Row;
}

/** Settings whose lists name places of a recording. */
function movedSettings(settings: TreatmentSettings, bySeconds: number): TreatmentSettings {
  const lists = Object.entries(treatmentOf(settings.kind).lists ?? {}).filter(
    ([, { fields }]) => fields && PLACES.some((name) => name in fields),
  );
  return {
    ...settings,
    ...Object.fromEntries(
      lists.map(([name]) => [name, ((settings[name] as readonly ListRow[] | undefined) ?? []).map((row) => movedRow(row, bySeconds))]),
    ),
  };
}
