import { useState, type ReactNode } from 'react';
import { Drawing } from './drawing';
import { Select } from './kit';

/** What one side of a comparison shows; undefined where it has nothing to draw. */
export interface Side {
  title: ReactNode;
  src?: string;
  alt: string;
}

/** Two drawings of the same size side by side, so that the eye finds what moved. */
export function DrawnBeside({ sides }: { sides: Side[] }) {
  return (
    <div className="grid gap-3 sm:grid-cols-2">
      {sides.map((s, n) => (
        <figure key={n} className="rounded border border-line p-2">
          <figcaption className="mb-1 text-sm text-soft">{s.title}</figcaption>
          <div className="h-64">
            {s.src ? <Drawing src={s.src} alt={s.alt} /> : <p className="grid h-full place-items-center text-sm text-soft">none</p>}
          </div>
        </figure>
      ))}
    </div>
  );
}

/** What differs, line by line, under the names of the two sides. */
export function Differences({
  head,
  from,
  to,
  rows,
}: {
  head: string;
  from: string;
  to: string;
  rows: { label: string; from?: string; to?: string }[];
}) {
  if (rows.length === 0) return <p className="text-sm">No difference.</p>;
  return (
    <table className="w-full text-sm">
      <thead>
        <tr className="text-left text-xs text-soft">
          <th className="py-1">{head}</th>
          <th>{from}</th>
          <th>{to}</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((r, n) => (
          <tr key={n} className="border-t border-line">
            <th scope="row" className="py-1 pr-3 text-left font-medium">
              {r.label}
            </th>
            <td className="pr-3">{r.from ?? <span className="text-soft">blank</span>}</td>
            <td>{r.to ?? <span className="text-soft">blank</span>}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What a revision is called; 0 is the draft. */
export const revisionName = (n: number) => (n === 0 ? 'draft' : `revision ${n}`);

/** Which two revisions are compared: of what there is, the newest with the one before it, until somebody chooses. */
export function useTwoRevisions(thing: { draft?: unknown; revisions: { number: number }[] }) {
  const sides = [...(thing.draft ? [0] : []), ...thing.revisions.map((r) => r.number)];
  const [from, setFrom] = useState(sides[1] ?? 0);
  const [to, setTo] = useState(sides[0] ?? 0);
  const choice = (label: string, v: number, set: (n: number) => void) => (
    <Select label={label} value={v} onChange={(e) => set(Number(e.target.value))}>
      {sides.map((n) => (
        <option key={n} value={n}>
          {revisionName(n)}
        </option>
      ))}
    </Select>
  );
  const choices = (
    <div className="mb-3 flex gap-3">
      {choice('From', from, setFrom)}
      {choice('To', to, setTo)}
    </div>
  );
  return { from, to, choices };
}
