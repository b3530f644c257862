import { useInfiniteQuery } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { api, take, type Schemas } from '../../api/client';
import { Asked } from '../../ui/asked';
import { Button, Dialog, Empty, Field, PageHead, Select } from '../../ui/kit';
import { pageOfThing } from '../../ui/pages';
import { DataTable, type Column } from '../../ui/table';

type Line = Schemas['TrailLine'];

const filters = ['by', 'kind', 'drawer', 'file', 'from', 'to'] as const;
const kinds = ['part', 'model', 'bom', 'intake', 'want', 'delivery', 'cabinet', 'lifecycle', 'crosswalk'];

const columns: Column<Line>[] = [
  { key: 'at', head: 'When', width: 190, cell: (l) => new Date(l.at).toLocaleString() },
  { key: 'says', head: 'What was done', width: 420, grow: true, cell: (l) => <span title={l.says}>{l.says}</span> },
  { key: 'changes', head: 'Before → after', width: 330, cell: (l) => <span title={changed(l)}>{changed(l)}</span> },
  { key: 'kind', head: 'Kind', width: 80, cell: (l) => l.kind },
];

/** The fields that an entry changed, on one line. */
function changed(l: Pick<Line, 'changes'>): string {
  return (l.changes ?? []).map((c) => `${c.what}: ${c.before ?? '–'} → ${c.after ?? '–'}`).join(' · ');
}

/** Who did what, across all things, newest first. */
export function TrailPage() {
  const [params, setParams] = useSearchParams();
  const said = Object.fromEntries(filters.map((f) => [f, params.get(f) ?? undefined]).filter(([, v]) => v)) as Record<string, string>;
  const trail = useInfiniteQuery({
    queryKey: ['trail', said],
    initialPageParam: '',
    queryFn: ({ pageParam }) =>
      take(api.GET('/api/v1/trail', { params: { query: { ...said, after: pageParam || undefined, limit: 200 } } })),
    getNextPageParam: (last) => last.next || undefined,
  });
  const [open, setOpen] = useState<Line>();
  const find = (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const form = new FormData(e.currentTarget);
    setParams(Object.fromEntries(filters.map((f) => [f, String(form.get(f) ?? '').trim()]).filter(([, v]) => v)));
  };
  const list = (format: string) => `/api/v1/trail-list?${new URLSearchParams({ ...said, format }).toString()}`;
  return (
    <>
      <PageHead title="Trail" sub="Who did what, when and why, across all things">
        {['csv', 'jsonl'].map((format) => (
          <a
            key={format}
            href={list(format)}
            download
            className="inline-flex min-h-7 items-center rounded border border-line bg-sheet px-2.5 text-sm font-medium hover:bg-tint"
          >
            {format === 'csv' ? 'Export CSV' : 'Export JSON Lines'}
          </a>
        ))}
      </PageHead>
      <form
        key={params.toString()}
        onSubmit={find}
        className="flex flex-wrap items-end gap-2 border-b border-line px-4 py-2"
        role="search"
        aria-label="Trail"
      >
        <Field label="By (sign-in name)" name="by" defaultValue={said.by} maxLength={64} className="w-36" />
        <Select label="Kind" name="kind" defaultValue={said.kind ?? ''}>
          <option value="">any</option>
          {kinds.map((k) => (
            <option key={k}>{k}</option>
          ))}
        </Select>
        <Field label="Drawer (key)" name="drawer" defaultValue={said.drawer} maxLength={48} className="w-36" />
        <Field label="File that came in" name="file" defaultValue={said.file} maxLength={255} className="w-44" />
        <Field label="From" name="from" type="date" defaultValue={said.from} />
        <Field label="To before" name="to" type="date" defaultValue={said.to} />
        <Button type="submit">Find</Button>
        {Object.keys(said).length > 0 && <Button onClick={() => setParams({})}>All</Button>}
      </form>
      <Asked of={trail}>
        {(t) => {
          const rows = t.pages.flatMap((p) => p.items);
          if (rows.length === 0)
            return (
              <Empty title="Nothing of that was done">
                <p>Leave a filter out, or widen the time.</p>
              </Empty>
            );
          return (
            <>
              <p role="status" className="flex items-center gap-3 border-b border-line px-4 py-1 text-sm text-soft">
                {rows.length.toLocaleString('en')} entries{trail.hasNextPage ? ' so far' : ''}
                {trail.hasNextPage && (
                  <Button disabled={trail.isFetchingNextPage} onClick={() => void trail.fetchNextPage()}>
                    Older
                  </Button>
                )}
              </p>
              <DataTable label="Trail" rows={rows} columns={columns} rowKey={(l) => `${l.id}${l.seq}`} onOpen={setOpen} />
            </>
          );
        }}
      </Asked>
      {open && <Entry l={open} onClose={() => setOpen(undefined)} />}
    </>
  );
}

/** One entry, whole. */
function Entry({ l, onClose }: { l: Line; onClose: () => void }) {
  const navigate = useNavigate();
  const page = pageOfThing(l);
  return (
    <Dialog title={`Entry ${l.seq} of ${l.number}`} open onClose={onClose} wide>
      <p className="mb-2 font-semibold break-words">{l.says}</p>
      {l.changes && l.changes.length > 0 && (
        <table className="mb-3 w-full text-sm">
          <thead>
            <tr className="text-left text-xs text-soft">
              <th className="py-1 pr-3">Field</th>
              <th className="pr-3">Before</th>
              <th>After</th>
            </tr>
          </thead>
          <tbody>
            {l.changes.map((c) => (
              <tr key={c.what} className="border-t border-line/60 align-top">
                <td className="py-1 pr-3">{c.what}</td>
                <td className="pr-3 break-words">{c.before ?? '–'}</td>
                <td className="break-words">{c.after ?? '–'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <dl className="mb-3 grid grid-cols-[6rem_1fr] gap-y-1 text-sm">
        <dt className="text-soft">When</dt>
        <dd>{new Date(l.at).toLocaleString()}</dd>
        <dt className="text-soft">Deed</dt>
        <dd className="font-mono break-all">{l.deed}</dd>
        <dt className="text-soft">Hash</dt>
        <dd className="font-mono break-all">{l.hash}</dd>
      </dl>
      {page && (
        <Button look="act" onClick={() => void navigate(page)}>
          Go to {l.number}
        </Button>
      )}
      {l.drawer && (
        <Link className="ml-3 text-sm underline" to={`/trail?drawer=${l.drawer}`} onClick={onClose}>
          All of {l.drawer}
        </Link>
      )}
    </Dialog>
  );
}
