import { EDGE_RANGE_SECONDS, type Edge, type Edges } from '@euphonos/engine';
import { Choice } from '../../components/choice.js';
import { Ruler } from '../../components/ruler.js';
import { Asked } from './asked.js';

/** What the rulers start from. Common practice, no source. */
const START = { head: { seconds: 0.5, fill: 'room-tone' }, tail: { seconds: 2, fill: 'room-tone' } } as const;
const EDGES = [
  { which: 'head', title: 'Put something before it', practice: [0.5, 1] },
  { which: 'tail', title: 'Put something behind it', practice: [1, 5] },
] as const;
const FILLS = [
  { value: 'room-tone', title: 'room tone', hint: 'Made of where it is quietest in what is delivered, as loud as there' },
  { value: 'silence', title: 'silence' },
] as const;

interface Props {
  readonly edges: Edges;
  readonly onChange: (edges: Partial<Edges>) => void;
}

/** Silence or room tone before and behind what is delivered. */
export function EdgesAsked({ edges, onChange }: Props) {
  return EDGES.map(({ which, title, practice }) => {
    const edge = edges[which];
    const set = (next: Edge | null): void => onChange({ [which]: next });
    return (
      <div key={which}>
        <Asked title={title} on={edge !== null} onChange={(on) => set(on ? START[which] : null)} />
        {edge && (
          <>
            <Ruler
              title={which === 'head' ? 'Head' : 'Tail'}
              unit="s"
              value={edge.seconds}
              min={EDGE_RANGE_SECONDS[0]}
              max={10}
              step={0.1}
              scale="linear"
              practice={practice}
              sentence="The sound itself stays as it is; a picture gets nothing before or behind it."
              onChange={(seconds) => set({ ...edge, seconds })}
            />
            <Choice label={`Fill of the ${which}`} value={edge.fill} onChange={(fill) => set({ ...edge, fill })} choices={FILLS} />
          </>
        )}
      </div>
    );
  });
}
