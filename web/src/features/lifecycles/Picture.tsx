import { type Schemas } from '../../api/client';
import { shapes } from '../../ui/shapes';
import { type Document } from './queries';

type State = Schemas['LifecycleState'];

const height = 34;
const step = 26; // by which an arc over one state more is higher
const letter = 7.4; // width of one, about

interface Placed {
  state: State;
  x: number;
  width: number;
}

interface Arc {
  from: number;
  to: number;
  words: string[];
}

/** Moves between the same two states in the same direction are one arc with all their labels. */
export function arcsOf(doc: Document, states: State[]): Arc[] {
  const at = new Map(states.map((s, i) => [s.key, i]));
  const arcs = new Map<string, Arc>();
  for (const m of doc.moves) {
    const to = at.get(m.to);
    if (to === undefined) continue;
    for (const key of m.from) {
      const from = at.get(key);
      if (from === undefined || from === to) continue;
      const arc = arcs.get(`${from} ${to}`) ?? { from, to, words: [] };
      arc.words.push(m.label);
      arcs.set(`${from} ${to}`, arc);
    }
  }
  return [...arcs.values()];
}

/** The states of a track in a row, moves to the right above it and moves back below: for looking, the table is for working. */
export function Picture({ doc, track }: { doc: Document; track: 'status' | 'standing' }) {
  const states = doc[track];
  const arcs = arcsOf(doc, states);
  const widest = Math.max(0, ...arcs.map((a) => (a.words.join(' · ').length * letter) / Math.abs(a.to - a.from)));
  const placed: Placed[] = [];
  let x = 12;
  for (const s of states) {
    const width = (s.word.length + 4) * letter + 16;
    placed.push({ state: s, x, width });
    x += Math.max(width + 36, Math.min(widest, 220) + 12);
  }
  const reach = (up: boolean) => Math.max(0, ...arcs.filter((a) => a.to > a.from === up).map((a) => Math.abs(a.to - a.from))) * step + 26;
  const above = reach(true);
  const base = above + height / 2;
  const last = placed[placed.length - 1];
  const all = { width: (last ? last.x + last.width : 0) + 12, height: above + height + reach(false) };
  const drawn = arcs.flatMap((a) => {
    const [from, to] = [placed[a.from], placed[a.to]];
    if (!from || !to) return [];
    const up = a.to > a.from;
    const sign = up ? -1 : 1;
    const edge = base + (sign * height) / 2;
    const top = edge + sign * Math.abs(a.to - a.from) * step;
    const [x1, x2] = [from.x + from.width / 2 + (up ? 10 : -10), to.x + to.width / 2 + (up ? -10 : 10)];
    return [
      {
        key: `${a.from} ${a.to}`,
        path: `M${x1} ${edge}C${x1} ${top + sign * 6} ${x2} ${top + sign * 6} ${x2} ${edge + sign * 2}`,
        x: (x1 + x2) / 2,
        y: edge + sign * Math.abs(a.to - a.from) * step * 0.78 + (up ? -7 : 15),
        words: a.words.join(' · '),
      },
    ];
  });
  return (
    <figure className="overflow-auto p-2">
      <svg
        role="img"
        aria-label={arcs.map((a) => `${states[a.from]?.word} to ${states[a.to]?.word}: ${a.words.join(', ')}`).join('; ')}
        viewBox={`0 0 ${all.width} ${all.height}`}
        width={all.width}
        height={all.height}
        className="text-sm text-ink"
      >
        <defs>
          <marker id={`head-${track}`} viewBox="0 0 8 8" refX="7" refY="4" markerWidth="7" markerHeight="7" orient="auto">
            <path d="M0 0L8 4L0 8Z" fill="currentColor" />
          </marker>
        </defs>
        {drawn.map((a) => (
          <path key={a.key} d={a.path} fill="none" stroke="currentColor" strokeWidth="1.4" markerEnd={`url(#head-${track})`} />
        ))}
        {drawn.map((a) => (
          <text
            key={a.key}
            x={a.x}
            y={a.y}
            textAnchor="middle"
            fill="currentColor"
            className="text-xs"
            paintOrder="stroke"
            stroke="var(--color-sheet)"
            strokeWidth="4"
          >
            {a.words}
          </text>
        ))}
        {placed.map((p) => (
          <g key={p.state.key}>
            <rect
              x={p.x}
              y={base - height / 2}
              width={p.width}
              height={height}
              rx="6"
              fill="var(--color-tint)"
              stroke="currentColor"
              strokeWidth={p.state.first ? 2.5 : 1}
            />
            <text x={p.x + p.width / 2} y={base + 5} textAnchor="middle" fill="currentColor" className="font-semibold">
              {shapes[p.state.shape] ?? ''} {p.state.word}
            </text>
          </g>
        ))}
      </svg>
    </figure>
  );
}
