import { Link } from 'react-router';
import { type Schemas } from '../../api/client';
import { Chip } from '../../ui/kit';

/** Parts that would do, and wants that ask for the same. */
export function LookList({ look, onChoose }: { look: Schemas['WantLook']; onChoose?: (number: string) => void }) {
  if (look.parts.length + look.doubles.length === 0)
    return <p className="text-sm text-soft">Nothing in the library would do, and nobody wants the same.</p>;
  return (
    <div role="status" className="space-y-1 text-sm">
      {look.parts.length > 0 && (
        <>
          <p className="font-semibold">
            {look.total === 1 ? 'One part of the library would do' : `${look.total} parts of the library would do`}
          </p>
          <ul className="space-y-0.5">
            {look.parts.map((p) => (
              <li key={p.id} className="flex flex-wrap items-baseline gap-2">
                <Link
                  className="font-semibold underline"
                  to={`/parts/${encodeURIComponent(p.number)}`}
                  target={onChoose ? undefined : '_blank'}
                >
                  {p.number}
                </Link>
                <span className="min-w-40 flex-1">{p.description}</span>
                {p.flag && <Chip tone="open">{p.flag}</Chip>}
                {onChoose && (
                  <button type="button" className="text-water underline" onClick={() => onChoose(p.number)}>
                    It is this one
                  </button>
                )}
              </li>
            ))}
          </ul>
        </>
      )}
      {look.doubles.map((d) => (
        <p key={d.id}>
          <Chip tone="open">{d.why}</Chip>{' '}
          <Link className="underline" to={`/wants/${d.number}`}>
            {d.number}
          </Link>{' '}
          of {d.by}: {d.what}
        </p>
      ))}
    </div>
  );
}
