import { useCallback, useMemo, useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { Button, Dialog, Empty, Field, PageHead, State, Trouble } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { useCabinet, useParts, useReleaseMany, type Filters, type PartRow } from './queries';

/** What the person is looking at lives in the address, so that a link shows a colleague the same. */
function useFilters(): [Filters, (change: Partial<Record<keyof Filters, string | string[] | boolean>>) => void] {
  const [params, setParams] = useSearchParams();
  const filters = useMemo(
    () => ({
      q: params.get('q') ?? '',
      drawer: params.getAll('drawer'),
      status: params.getAll('status'),
      standing: params.getAll('standing'),
      sort: params.get('sort') ?? 'number',
      down: params.get('down') === 'true',
    }),
    [params],
  );
  const set = useCallback(
    (change: Partial<Record<keyof Filters, string | string[] | boolean>>) =>
      setParams((was) => {
        const next = new URLSearchParams(was);
        for (const [k, v] of Object.entries(change)) {
          next.delete(k);
          for (const one of Array.isArray(v) ? v : [String(v)]) if (one !== '' && one !== 'false') next.append(k, one);
        }
        return next;
      }),
    [setParams],
  );
  return [filters, set];
}

const fixed: Column<PartRow>[] = [
  { key: 'number', head: 'Number', width: 110, sortable: true, cell: (p) => <span className="font-semibold">{p.number}</span> },
  { key: 'description', head: 'Description', width: 240, grow: true, sortable: true, cell: (p) => <span title={p.description}>{p.description}</span> },
  { key: 'manufacturer', head: 'Manufacturer', width: 150, sortable: true, cell: (p) => p.manufacturer },
  { key: 'mpn', head: 'MPN', width: 165, sortable: true, cell: (p) => <>{p.mpn}{p.sources > 1 && <span title="alternates"> +{p.sources - 1}</span>}</> },
  { key: 'status', head: 'Status', width: 130, sortable: true, cell: (p) => <State of={p.status} more={p.revision ? `${p.revision}${p.hasDraft ? ' + draft' : ''}` : ''} /> },
  { key: 'standing', head: 'Standing', width: 165, sortable: true, cell: (p) => <State of={p.standing} /> },
]; // prettier-ignore

export function PartsPage() {
  const [f, set] = useFilters();
  const parts = useParts(f);
  const cabinet = useCabinet();
  const navigate = useNavigate();
  const may = useMay();
  const [selected, setSelected] = useState<Set<string>>(new Set());
  const [releasing, setReleasing] = useState(false);

  const first = parts.data?.pages[0];
  const rows = useMemo(() => parts.data?.pages.flatMap((p) => p.items) ?? [], [parts.data]);
  const drawers = cabinet.data?.drawers ?? [];
  const one = f.drawer.length === 1 ? drawers.find((d) => d.key === f.drawer[0]) : undefined;
  const columns = useMemo<Column<PartRow>[]>(() => {
    const own = (one?.slots ?? [])
      .filter((s) => !s.byHand)
      .map((s) => ({
        key: s.key,
        head: s.label,
        width: 120,
        sortable: true,
        align: s.type === 'measure' || s.type === 'number' ? ('right' as const) : undefined,
        cell: (p: PartRow) => p.values[s.key] ?? <span className="text-soft">–</span>,
      }));
    return [...fixed.slice(0, 2), ...own, ...fixed.slice(2)];
  }, [one]);

  const toggle = (key: 'drawer' | 'status' | 'standing', v: string) =>
    set({ [key]: f[key].includes(v) ? f[key].filter((x) => x !== v) : [...f[key], v] });
  const { fetchNextPage } = parts;
  const onEnd = useCallback(() => void fetchNextPage(), [fetchNextPage]);
  const filtered = f.drawer.length + f.status.length + f.standing.length > 0;

  return (
    <>
      <PageHead
        title="Parts"
        sub={
          <span>
            {first ? `${first.page.total.toLocaleString('en')} parts` : '…'}
            {f.q && first && first.facts.length > 0 && <> for {first.facts.map((x) => `“${x.text}” read as ${x.as}`).join('; ')}</>}
            {first && first.hidden > 0 && (
              <>
                {' · '}
                <button
                  type="button"
                  className="font-semibold text-amber underline"
                  onClick={() => set({ drawer: [], status: [], standing: [] })}
                >
                  {first.hidden.toLocaleString('en')} more are hidden by the filters: show them
                </button>
              </>
            )}
          </span>
        }
      >
        {selected.size > 0 && may('part.release') && <Button onClick={() => setReleasing(true)}>Release {selected.size} selected…</Button>}
        {may('part.edit') && (
          <Link
            to={`/parts/new${one ? `?drawer=${one.key}` : ''}`}
            className="inline-flex min-h-7 items-center rounded bg-water px-2.5 py-1 text-sm font-medium text-onwater hover:bg-water-strong"
          >
            Make a part
          </Link>
        )}
      </PageHead>
      <Trouble error={parts.error} />
      <div className="grid min-h-0 flex-1 grid-cols-1 md:grid-cols-[13rem_1fr]">
        <aside aria-label="Filters" className="hidden min-h-0 overflow-auto border-r border-line bg-ground p-2 text-sm md:block">
          {f.q && (
            <p className="mb-2">
              <Button onClick={() => set({ q: '' })}>✕ {f.q}</Button>
            </p>
          )}
          <Facet
            title="Drawer"
            counts={first?.drawers ?? {}}
            chosen={f.drawer}
            label={(k) => drawers.find((d) => d.key === k)?.label ?? k}
            onToggle={(v) => toggle('drawer', v)}
          />
          <Facet title="Status" counts={first?.status ?? {}} chosen={f.status} onToggle={(v) => toggle('status', v)} />
          <Facet title="Standing" counts={first?.standing ?? {}} chosen={f.standing} onToggle={(v) => toggle('standing', v)} />
        </aside>
        <DataTable
          label="Parts"
          rows={rows}
          total={first?.page.total}
          columns={columns}
          rowKey={(p) => p.id}
          onOpen={(p) => void navigate(`/parts/${encodeURIComponent(p.number)}`)}
          sort={{ key: f.sort, down: f.down }}
          onSort={(key) => set({ sort: key, down: f.sort === key && !f.down })}
          selected={may('part.release') ? selected : undefined}
          onSelect={may('part.release') ? setSelected : undefined}
          onEnd={onEnd}
          empty={
            parts.isPending ? undefined : f.q || filtered ? (
              <Empty title="Nothing fits">
                Relax a filter or a word. What suppliers sell comes in by an{' '}
                <Link className="underline" to="/intakes">
                  intake
                </Link>
                .
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
      </div>
      <ReleaseDialog
        open={releasing}
        rows={rows.filter((r) => selected.has(r.id))}
        onClose={() => setReleasing(false)}
        onDone={() => setSelected(new Set())}
      />
    </>
  );
}

function Facet({
  title,
  counts,
  chosen,
  label = (k) => k,
  onToggle,
}: {
  title: string;
  counts: Record<string, number>;
  chosen: string[];
  label?: (k: string) => string;
  onToggle: (v: string) => void;
}) {
  const keys = [...new Set([...Object.keys(counts), ...chosen])].sort((a, b) => label(a).localeCompare(label(b)));
  return (
    <fieldset className="mb-3">
      <legend className="mb-1 text-xs font-semibold text-soft">{title}</legend>
      {keys.map((k) => (
        <label key={k} className="flex min-h-6 cursor-pointer items-center gap-2 rounded px-1 hover:bg-sheet">
          <input type="checkbox" checked={chosen.includes(k)} onChange={() => onToggle(k)} />
          <span className="min-w-0 flex-1 truncate">{label(k)}</span>
          <span className="text-xs text-soft">{counts[k] ?? 0}</span>
        </label>
      ))}
    </fieldset>
  );
}

function ReleaseDialog({ open, rows, onClose, onDone }: { open: boolean; rows: PartRow[]; onClose: () => void; onDone: () => void }) {
  const [note, setNote] = useState('');
  const release = useReleaseMany();
  const say = useSay();
  return (
    <Dialog title={`Release ${rows.length} drafts`} open={open} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          release.mutate(
            { note, parts: rows.map((r) => ({ id: r.id, version: r.version })) },
            {
              onSuccess: (r) => {
                say(`Released ${r.parts} parts: everybody sees them now.`);
                onDone();
                onClose();
              },
            },
          );
        }}
      >
        <p className="text-sm">Each becomes the next revision of its part, frozen for good. All of them are released, or none.</p>
        <Field label="Note" required maxLength={2000} value={note} onChange={(e) => setNote(e.target.value)} />
        <Trouble error={release.error} />
        <Button look="act" type="submit" disabled={release.isPending}>
          Release {rows.length} parts
        </Button>
      </form>
    </Dialog>
  );
}
