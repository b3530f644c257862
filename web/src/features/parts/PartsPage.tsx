import { useCabinet } from '../cabinet/queries';
import { useEffect, useMemo, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { Button, Dialog, Empty, LifeState, PageHead, State, Trouble } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { BulkMove, useStates } from '../lifecycles';
import { WatchButton } from '../notices';
import { useMay } from '../people';
import { Facets } from './Facets';
import { Facts, NearMisses } from './Facts';
import { ListTools } from './ListTools';
import { PartBeside } from './PartBeside';
import { SupplyFilters } from './SupplyFilters';
import { useAnswer, useLooking, useRows } from './lookup';
import { type PartRow } from './queries';

const fixed: Column<PartRow>[] = [
  { key: 'number', head: 'Number', width: 118, sortable: true, cell: (p) => <span className="font-semibold">{p.number}</span> },
  { key: 'name', head: 'Name', width: 170, sortable: true, cell: (p) => p.name },
  { key: 'description', head: 'Description', width: 230, grow: true, sortable: true, cell: (p) => <span title={p.description}>{p.description}</span> },
  { key: 'drawer', head: 'Drawer', width: 150, sortable: true, cell: (p) => p.drawer },
  { key: 'manufacturer', head: 'Manufacturer', width: 130, sortable: true, cell: (p) => p.manufacturer },
  { key: 'mpn', head: 'MPN', width: 150, sortable: true, cell: (p) => <>{p.mpn}{p.sources > 1 && <span title="alternates"> +{p.sources - 1}</span>}</> },
  { key: 'status', head: 'Status', width: 112, sortable: true, cell: (p) => p.status },
  { key: 'standing', head: 'Standing', width: 150, sortable: true, cell: (p) => p.standing },
  { key: 'missing', head: 'Missing', width: 170, cell: (p) => p.missing.join(', ') },
  { key: 'offer.stock', head: 'Stock', width: 100, sortable: true, align: 'right', cell: (p) => stock(p) },
  { key: 'offer.price', head: 'Price', width: 110, sortable: true, align: 'right', cell: (p) => p.supply?.price ?? <span className="text-soft">–</span> },
  { key: 'offer.lead', head: 'Lead time (days)', width: 140, sortable: true, align: 'right', cell: (p) => p.supply?.leadDays ?? <span className="text-soft">–</span> },
  { key: 'offer.sources', head: 'Sources on offer', width: 140, sortable: true, align: 'right', cell: (p) => p.supply?.sources ?? <span className="text-soft">–</span> },
  { key: 'offer.named', head: 'Sources', width: 90, sortable: true, align: 'right', cell: (p) => p.sources },
  { key: 'offer.state', head: 'Product state', width: 175, sortable: true, cell: (p) => p.supply?.state ? <State of={p.supply.state} /> : <span className="text-soft">–</span> },
]; // prettier-ignore

/** A chosen value or range in words. */
function spoken(v: string) {
  const open = /^(.*?)\.\.(.*)$/.exec(v);
  if (!open) return v;
  const [from = '', to = ''] = [open[1]?.trim(), open[2]?.trim()];
  return from && to ? `${from} to ${to}` : from ? `at least ${from}` : `at most ${to}`;
}

/** What suppliers have of a part together. */
function stock(p: PartRow) {
  if (p.supply?.stock === undefined) return <span className="text-soft">–</span>;
  return `${p.supply.stock.toLocaleString('en')}${p.supply.atLeast ? '+' : ''}`;
}

const usual = ['number', 'description', 'manufacturer', 'mpn', 'status', 'standing'];

export function PartsPage() {
  const [looking, set] = useLooking();
  const answer = useAnswer(looking);
  const total = answer.data?.page.total ?? 0;
  const { rows, onView, error } = useRows(looking, total);
  const cabinet = useCabinet();
  const states = useStates();
  const navigate = useNavigate();
  const may = useMay();
  const [selected, setSelected] = useState<Set<string>>(new Set());
  const [releasing, setReleasing] = useState(false);
  const [filtering, setFiltering] = useState(false);
  const [active, setActive] = useState<PartRow>();

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key === 'b' && (e.target as HTMLElement).role === 'grid') set({ beside: !looking.beside });
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [looking.beside, set]);

  const first = answer.data;
  const chosenDrawers = looking.filters.drawer ?? [];
  const names = useMemo(() => {
    const out = new Map<string, { label: string; type: string }>(fixed.map((c) => [c.key, { label: c.head, type: 'text' }]));
    for (const p of cabinet.data?.document.parameters ?? []) out.set(p.key, { label: p.label, type: p.type });
    return out;
  }, [cabinet.data]);
  const drawerLabel = (k: string) => cabinet.data?.drawers.find((d) => d.key === k)?.label ?? k;
  const within = Object.keys(first?.drawers ?? {});
  const one = cabinet.data?.drawers.find(
    (d) => d.key === (chosenDrawers.length === 1 ? chosenDrawers[0] : within.length === 1 ? within[0] : ''),
  );
  const shown = useMemo(() => {
    if (looking.columns.length) return looking.columns;
    const offers = [...Object.keys(looking.filters), ...looking.sort.map((s) => s.key)].some((k) => k.startsWith('offer.'))
      ? ['offer.stock', 'offer.price', 'offer.lead', 'offer.state']
      : [];
    const own = one ? (one.columns.length ? one.columns : one.slots.map((s) => s.key)) : [];
    return [...usual.slice(0, 2), ...offers, ...own.filter((k) => !usual.includes(k)), ...usual.slice(2)];
  }, [looking.columns, looking.filters, looking.sort, one]);
  const columns = useMemo<Column<PartRow>[]>(
    () =>
      shown.map((key) => {
        const own = fixed.find((c) => c.key === key);
        if (own && (key === 'status' || key === 'standing'))
          return {
            ...own,
            cell: (row: PartRow) => {
              const more = key === 'status' && row.revision ? `${row.label ?? row.revision}${row.hasDraft ? ' + draft' : ''}` : '';
              const state = states(row.drawer, row[key]);
              return state ? <LifeState of={state} more={more} /> : <State of={row[key]} more={more} />;
            },
          };
        if (own) return key === 'offer.price' ? { ...own, head: `Price of ${looking.pieces}` } : own;
        const p = names.get(key);
        const head = p?.label ?? (cabinet.data ? `${key}: no such parameter` : key);
        return {
          key,
          head,
          width: Math.max(90, head.length * 7 + 32),
          sortable: true,
          align: p?.type === 'measure' || p?.type === 'number' ? ('right' as const) : undefined,
          cell: (row: PartRow) => row.values[key] ?? <span className="text-soft">–</span>,
        };
      }),
    [cabinet.data, looking.pieces, names, shown, states],
  );
  const choices = useMemo(() => {
    const slots = one?.slots.map((s) => s.key) ?? (first?.facets ?? []).map((f) => f.key);
    return [...new Set([...fixed.map((c) => c.key), ...slots, ...shown])].map((key) => ({ key, label: names.get(key)?.label ?? key }));
  }, [first, names, one, shown]);

  const toggle = (key: string, v: string) => {
    const was = looking.filters[key] ?? [];
    set({ filters: { ...looking.filters, [key]: was.includes(v) ? was.filter((x) => x !== v) : [...was, v] } });
  };
  const filterLabel = (key: string, v: string) =>
    key === 'drawer' ? drawerLabel(v) : `${names.get(key)?.label ?? key}: ${v === '-' ? 'blank' : spoken(v)}`;
  const headings = useMemo(() => {
    const groups = looking.group ? (first?.groups ?? []) : [];
    const name = names.get(looking.group)?.label ?? looking.group;
    return groups.map((g, i) => ({
      at: groups.slice(0, i).reduce((n, x) => n + x.parts, 0),
      text: `${name}: ${g.value || 'blank'} · ${g.parts.toLocaleString('en')}`,
    }));
  }, [first, looking.group, names]);
  const sort = looking.sort[0] ?? { key: 'number', down: false };
  const marked = rows.filter((r) => r !== undefined && selected.has(r.id)) as PartRow[];

  const facets = (
    <Facets looking={looking} facets={first?.facets ?? []} drawers={first?.drawers ?? {}} label={drawerLabel} onToggle={toggle}>
      <SupplyFilters looking={looking} onChange={set} />
    </Facets>
  );

  return (
    <>
      <PageHead
        title="Parts"
        sub={
          <span>
            {first ? `${total.toLocaleString('en')} parts` : '…'}
            {first && first.hidden > 0 && (
              <>
                {' · '}
                <button type="button" className="font-semibold text-amber underline" onClick={() => set({ filters: {} })}>
                  {first.hidden.toLocaleString('en')} more are hidden by the filters: show them
                </button>
              </>
            )}
          </span>
        }
      >
        {selected.size > 1 && selected.size < 7 && (
          <Button onClick={() => void navigate(`/compare?${marked.map((r) => `part=${encodeURIComponent(r.number)}`).join('&')}`)}>
            Compare {selected.size}
          </Button>
        )}
        {selected.size > 0 && may('thing.move') && <Button onClick={() => setReleasing(true)}>Move {selected.size} selected on…</Button>}
        <Button className="md:hidden" onClick={() => setFiltering(true)}>
          Filters…
        </Button>
        <Button
          aria-pressed={looking.beside}
          title="The active part beside the list (key b)"
          onClick={() => set({ beside: !looking.beside })}
        >
          {looking.beside ? '◨ Part beside' : '□ Part beside'}
        </Button>
        {looking.q.trim() && may('supplier.ask') && (
          <Link
            to={`/suppliers?q=${encodeURIComponent(looking.q.trim())}`}
            className="inline-flex min-h-7 items-center rounded border border-line bg-sheet px-2.5 py-1 text-sm font-medium hover:bg-tint"
          >
            Ask the suppliers
          </Link>
        )}
        {looking.q.trim() && <WatchButton of="question" about={looking.q.trim().replace(/\s+/g, ' ')} name={`“${looking.q.trim()}”`} />}
        <ListTools looking={looking} columns={choices} shown={shown} onChange={set} />
        {may('part.edit') && (
          <Link
            to={`/parts/new${one ? `?drawer=${one.key}` : ''}`}
            className="inline-flex min-h-7 items-center rounded bg-water px-2.5 py-1 text-sm font-medium text-onwater hover:bg-water-strong"
          >
            Make a part
          </Link>
        )}
      </PageHead>
      <Trouble error={answer.error ?? error} />
      <Facts looking={looking} facts={first?.facts ?? []} label={filterLabel} onChange={set} />
      {filtering && (
        <Dialog title="Filters" open onClose={() => setFiltering(false)}>
          <div className="text-sm">{facets}</div>
        </Dialog>
      )}
      <div
        className={`grid min-h-0 flex-1 grid-cols-1 md:grid-cols-[14rem_1fr] ${looking.beside ? 'grid-rows-[1fr_45%] lg:grid-cols-[14rem_1fr_21rem] lg:grid-rows-1' : ''}`}
      >
        <aside
          aria-label="Filters"
          className="hidden min-h-0 overflow-auto border-r border-line bg-ground p-2 text-sm md:row-span-2 md:block lg:row-span-1"
        >
          {facets}
        </aside>
        <DataTable
          key={JSON.stringify([looking.q, looking.filters, looking.group])}
          label="Parts"
          rows={rows}
          total={total}
          headings={headings}
          columns={columns}
          rowKey={(p) => p.id}
          onActive={looking.beside ? setActive : undefined}
          onOpen={(p) => void navigate(`/parts/${encodeURIComponent(p.number)}`)}
          sort={sort}
          onSort={(key) => set({ sort: [{ key, down: sort.key === key && !sort.down }] })}
          selected={selected}
          onSelect={setSelected}
          onView={onView}
          empty={
            !answer.isSuccess ? undefined : looking.q || Object.keys(looking.filters).length > 0 ? (
              <Empty title="Nothing fits">
                {looking.q.trim() && (
                  <>
                    <Link className="font-semibold underline" to={`/suppliers?q=${encodeURIComponent(looking.q.trim())}`}>
                      Ask the suppliers the same
                    </Link>
                    , or{' '}
                  </>
                )}
                {first?.relax.length ? 'relax one fact:' : 'relax a filter or a word.'}
                <NearMisses relax={first?.relax ?? []} onChoose={(q) => set({ q })} />
              </Empty>
            ) : (
              <Empty title="The library is empty">
                Start with a{' '}
                <Link className="underline" to="/cabinet">
                  cabinet
                </Link>
                , then bring in a supplier’s file by an{' '}
                <Link className="underline" to="/intakes">
                  intake
                </Link>
                .
              </Empty>
            )
          }
        />
        {looking.beside && <PartBeside number={total > 0 ? active?.number : undefined} />}
      </div>
      {releasing && (
        <BulkMove
          things={marked.map((r) => ({ id: r.id, version: r.version }))}
          onClose={() => setReleasing(false)}
          onDone={() => setSelected(new Set())}
        />
      )}
    </>
  );
}
