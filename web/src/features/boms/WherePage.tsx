import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { Stale } from '../../ui/asked';
import { Button, Empty, Field, PageHead, Select, State, Trouble } from '../../ui/kit';
import { useMay } from '../people';
import { ReplaceDialog } from './ReplaceDialog';
import { useWhereUsed, type UsedPart } from './queries';

const kinds = { part: 'part', mpn: 'source (MPN)', maker: 'maker', supplier: 'supplier', model: 'model', datasheet: 'datasheet' } as const;
type Kind = keyof typeof kinds;
const isKind = (k: string): k is Kind => k in kinds;

/** On which boards parts are, and what could stand in for them, were they gone. */
export function WherePage() {
  const [params, setParams] = useSearchParams();
  const kind =
    Object.keys(kinds)
      .filter(isKind)
      .find((k) => params.has(k)) ?? 'part';
  const about = params.get(kind) ?? '';
  const instead = params.has('instead');
  const [of, setOf] = useState<Kind>(kind);
  const [text, setText] = useState(about);
  const used = useWhereUsed(kind, about, instead);
  const may = useMay();
  const [replace, setReplace] = useState<{ part: string; with: string }>();
  const u = used.data;
  return (
    <>
      <Stale of={used} />
      <PageHead
        title="Where used"
        sub={
          u && about
            ? `${String(u.page.total)} ${u.page.total === 1 ? 'part' : 'parts'} on ${String(u.boards)} ${u.boards === 1 ? 'board' : 'boards'} as they stand now`
            : 'On which boards a part is, and what could stand in for it, were it gone.'
        }
      />
      <form
        className="flex flex-wrap items-end gap-3 border-b border-line bg-sheet px-4 py-2"
        onSubmit={(e) => {
          e.preventDefault();
          setParams({ [of]: text.trim(), ...(instead && { instead: '1' }) });
        }}
      >
        <div className="w-44">
          <Select label="Of a" value={of} onChange={(e) => isKind(e.target.value) && setOf(e.target.value)}>
            {Object.entries(kinds).map(([k, label]) => (
              <option key={k} value={k}>
                {label}
              </option>
            ))}
          </Select>
        </div>
        <div className="w-72">
          <Field
            label={of === 'part' || of === 'model' ? 'Number' : 'Name'}
            value={text}
            onChange={(e) => setText(e.target.value)}
            maxLength={200}
          />
        </div>
        <Button look="act" type="submit" disabled={!text.trim()}>
          Find
        </Button>
        <label className="flex items-center gap-2 py-1.5 text-sm">
          <input
            type="checkbox"
            checked={instead}
            onChange={(e) =>
              setParams((p) => {
                if (e.target.checked) p.set('instead', '1');
                else p.delete('instead');
                return p;
              })
            }
          />
          and what could be taken instead, were it gone
        </label>
      </form>
      <Trouble error={used.error} />
      <div className="min-h-0 flex-1 space-y-3 overflow-auto p-4">
        {about && used.isPending && <Empty title="One moment…" />}
        {u?.items.length === 0 && <Empty title="No board takes such a part">Lines count that are linked to a record and are fitted.</Empty>}
        {u?.items.map((item) => (
          <section key={item.part.id} className="rounded border border-line bg-sheet p-3 text-sm" aria-label={item.part.number}>
            <h2 className="mb-2 flex flex-wrap items-center gap-2">
              <Link className="font-semibold underline" to={`/parts/${encodeURIComponent(item.part.number)}`}>
                {item.part.number}
              </Link>
              <span className="flex-1">{item.part.description}</span>
              <State of={item.part.standing} />
            </h2>
            <Boards item={item} />
            {instead && (
              <Instead item={item} onReplace={may('bom.edit') ? (w) => setReplace({ part: item.part.number, with: w }) : undefined} />
            )}
          </section>
        ))}
        {u && u.page.total > u.items.length && (
          <p className="text-sm text-soft">
            The first {u.items.length} of {u.page.total} parts are shown; jolly bom where lists them all.
          </p>
        )}
      </div>
      {replace && <ReplaceDialog {...replace} onClose={() => setReplace(undefined)} />}
    </>
  );
}

function Boards({ item }: { item: UsedPart }) {
  if (item.boards.length === 0) return <p className="text-soft">On no board.</p>;
  return (
    <table className="w-full">
      <thead>
        <tr className="text-left text-xs text-soft">
          <th className="py-1 pr-3">Board</th>
          <th className="pr-3">As</th>
          <th className="pr-3">Designators</th>
          <th className="pr-3 text-right">A board</th>
          <th className="pr-3 text-right">A build</th>
          <th className="text-right">A year</th>
        </tr>
      </thead>
      <tbody>
        {item.boards.map((b) => (
          <tr key={`${b.bom} ${String(b.revision)}`} className="border-t border-line/60">
            <th scope="row" className="py-1 pr-3 text-left font-normal">
              <Link className="underline" to={`/boms/${encodeURIComponent(b.name)}${b.revision ? `/revisions/${String(b.revision)}` : ''}`}>
                {b.name}
              </Link>
            </th>
            <td className="pr-3 whitespace-nowrap">
              {b.revision ? `revision ${String(b.revision)}, pinned to revision ${String(b.partRevision)}` : 'it stands now'}
            </td>
            <td className="max-w-md pr-3 font-mono text-xs break-words">
              {b.designators.join(', ')}
              {b.by && <span className="text-soft"> by way of {b.by.join(', ')}</span>}
            </td>
            <td className="pr-3 text-right">{[b.pieces, ...(b.amounts ?? [])].join(', ')}</td>
            <td className="pr-3 text-right">{b.build ? (b.build * b.pieces).toLocaleString('en') : ''}</td>
            <td className="text-right">{b.yearly?.toLocaleString('en')}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const bought = (b?: { total: string; pieces: number; supplier: string; short?: boolean; stock?: number }) =>
  b
    ? `${b.total} for ${b.pieces.toLocaleString('en')} from ${b.supplier}${b.short ? `, which has ${(b.stock ?? 0).toLocaleString('en')}` : ''}`
    : 'no price is known';

/** What is left of a part, and which records could take its place. */
function Instead({ item, onReplace }: { item: UsedPart; onReplace?: (number: string) => void }) {
  const left = item.left ?? [];
  const others = item.instead ?? [];
  return (
    <div className="mt-3 border-t border-line pt-2">
      <h3 className="mb-1 text-xs font-semibold text-soft">
        Instead{item.needs ? `, for the ${item.needs.toLocaleString('en')} pieces that one build of all boards takes` : ''}
      </h3>
      {left.length + others.length === 0 && (
        <p>
          Nothing in the library could take its place:{' '}
          <Link className="underline" to={`/suppliers?q=${encodeURIComponent(item.part.description)}`}>
            ask the suppliers
          </Link>
          .
        </p>
      )}
      <ul className="space-y-1">
        {left.map((l) => (
          <li key={`${l.manufacturer} ${l.mpn}`} className="flex flex-wrap items-center gap-x-3">
            <span className="font-semibold">
              {l.manufacturer} {l.mpn}
            </span>
            <span className="flex-1">a source of its own that is left</span>
            <span>{bought(l.buy)}</span>
          </li>
        ))}
        {others.map((x) => (
          <li key={x.part.id} className="flex flex-wrap items-center gap-x-3">
            <Link className="font-semibold underline" to={`/parts/${encodeURIComponent(x.part.number)}`}>
              {x.part.number}
            </Link>
            <span className="min-w-60 flex-1">
              {x.why}
              {x.differs.length > 0 && <span className="block text-rust">{x.differs.join('; ')}</span>}
              {x.against.length > 0 && <span className="block text-rust">{x.against.join('; ')}</span>}
            </span>
            <span>{bought(x.buy)}</span>
            {onReplace && item.boards.some((b) => b.revision === 0) && <Button onClick={() => onReplace(x.part.number)}>Replace…</Button>}
          </li>
        ))}
      </ul>
      {onReplace && item.boards.some((b) => b.revision === 0) && (
        <p className="mt-2">
          <Button onClick={() => onReplace('')}>Replace with another part…</Button>
        </p>
      )}
    </div>
  );
}
