import { useCabinet } from '../cabinet/queries';
import { useEffect, useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { Stale } from '../../ui/asked';
import { later } from '../../ui/idle';
import { Chip, Empty, LifeState, Trouble } from '../../ui/kit';
import { PartDrawings } from '../models';
import { usePartBeside } from './queries';

/** How long a row must stay active before its part is asked for: an arrow key held down passes many. */
const settle = 90;

/** The active part of the list: its drawings, all of its parameters, its sources. Nothing of it can be changed here. */
export function PartBeside({ number }: { number: string | undefined }) {
  const [settled, setSettled] = useState(number);
  useEffect(() => later(() => setSettled(number), settle), [number]);
  const part = usePartBeside(settled ?? number);
  const p = part.data;
  const content = p?.released ?? p?.draft;
  const drawer = useCabinet().data?.drawers.find((d) => d.key === content?.drawer);
  if (!number) return <Beside><Empty title="No part is active">Arrows or a click make a row active.</Empty></Beside>; // prettier-ignore
  if (part.error && !part.data) return <Beside><Trouble error={part.error} /></Beside>; // prettier-ignore
  if (!p || !content) return <Beside><Empty title="One moment…" /></Beside>; // prettier-ignore
  const values = content.values.filter((v) => v.text !== '');
  const blank = content.values.filter((v) => v.text === '');
  return (
    <Beside busy={p.number !== number}>
      <Stale of={part} />
      <h2 className="text-base font-bold">
        <Link className="hover:underline" to={`/parts/${encodeURIComponent(p.number)}`}>
          {p.number}
        </Link>
      </h2>
      <p>{content.description}</p>
      <p className="mt-1 flex flex-wrap gap-1">
        <LifeState of={p.states.status} more={p.states.label} />
        <LifeState of={p.states.standing} />
        {p.states.draft && <Chip tone="open">beside it: {p.states.draft.word}</Chip>}
      </p>
      <div className="mt-2">
        <PartDrawings content={content} letter={drawer?.designator} small />
      </div>
      <table className="mt-2 w-full">
        <caption className="sr-only">Parameters of {p.number}</caption>
        <tbody>
          {values.map((v) => (
            <tr key={v.key} className="border-t border-line/60">
              <th scope="row" className="py-0.5 pr-2 text-left font-medium text-soft">
                {v.label}
              </th>
              <td className="py-0.5 text-right font-semibold" title={v.origin?.written}>
                {v.text} {v.type === 'raw' && <Chip tone="bad">not read</Chip>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {blank.length > 0 && <p className="mt-1 text-xs text-soft">Blank: {blank.map((v) => v.label).join(', ')}</p>}
      <h3 className="mt-2 text-xs font-semibold text-soft">Sources</h3>
      <ul>
        {content.sources.map((s) => (
          <li key={s.manufacturer + s.mpn}>
            {s.manufacturer} <strong>{s.mpn}</strong>
            {s.numbers?.map((n) => (
              <span key={n.supplier + n.number} className="block pl-3 text-xs text-soft">
                {n.supplier} {n.number}
              </span>
            ))}
          </li>
        ))}
        {content.sources.length === 0 && <li className="text-soft">None.</li>}
      </ul>
      <h3 className="mt-2 text-xs font-semibold text-soft">Datasheets</h3>
      <ul>
        {content.datasheets.map((d) => (
          <li key={d.hash}>
            <a className="underline" href={`/api/v1/files/${d.hash}?name=${encodeURIComponent(d.name)}`} download={d.name}>
              {d.name}
            </a>
          </li>
        ))}
        {content.datasheets.length === 0 && <li className="text-soft">None attached.</li>}
      </ul>
    </Beside>
  );
}

function Beside({ busy = false, children }: { busy?: boolean; children: ReactNode }) {
  return (
    <section
      aria-label="The active part"
      aria-busy={busy}
      className="min-h-0 overflow-auto border-t border-line bg-ground p-3 text-sm lg:border-t-0 lg:border-l"
    >
      {children}
    </section>
  );
}
