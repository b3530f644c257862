import { useCallback, useMemo, useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import type { Schemas } from '../../api/client';
import { Button, Dialog, Empty, PageHead, Select, State, Trouble } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { useMay } from '../people';
import { useDrawers, useEditIntake, useIntake, useJob, useRows, useStopJob, useTakeIn, type Intake, type Row } from './queries';

const states = ['new', 'known', 'differs', 'repeat', 'blocked', 'left out'];

const columns: Column<Row>[] = [
  { key: 'row', head: 'Row', width: 50, align: 'right', cell: (r) => r.row },
  { key: 'state', head: 'State', width: 95, cell: (r) => <State of={r.state} /> },
  { key: 'mpn', head: 'MPN', width: 145, cell: (r) => r.mpn },
  { key: 'description', head: 'Would become', width: 220, grow: true, cell: (r) => <span title={r.description}>{r.description}</span> },
  { key: 'why', head: 'Why, and findings', width: 260, grow: true, cell: (r) => <span title={words(r)}>{words(r)}</span> },
  { key: 'number', head: 'Part', width: 100, cell: (r) => r.number },
  { key: 'drawer', head: 'Drawer', width: 150, cell: (r) => r.drawer ?? <span className="text-soft">{r.kind}</span> },
  { key: 'maker', head: 'Manufacturer', width: 150, cell: (r) => r.manufacturer },
];

function words(r: Row) {
  return [r.why, ...r.findings.map((f) => f.what)].filter((w, i, all) => w && all.indexOf(w) === i).join('; ');
}

export function IntakePage() {
  const { id = '' } = useParams();
  const [params, setParams] = useSearchParams();
  const state = params.get('state') ?? '';
  const cause = params.get('cause') ?? '';
  const intake = useIntake(id);
  const i = intake.data;
  const taken = i?.state === 'taken in';
  const rows = useRows(id, taken ? undefined : i?.version, state, cause);
  const all = useMemo(() => rows.data?.pages.flatMap((p) => p.items) ?? [], [rows.data]);
  const [selected, setSelected] = useState<Set<string>>(new Set());
  const [open, setOpen] = useState<Row>();
  const [asking, setAsking] = useState(false);
  const may = useMay();
  const edit = useEditIntake(id);
  const { fetchNextPage, hasNextPage } = rows;
  const onView = useCallback(
    (_: number, last: number) => {
      if (hasNextPage && last > all.length - 40) void fetchNextPage();
    },
    [all.length, fetchNextPage, hasNextPage],
  );

  if (intake.error) return <div className="p-4"><Trouble error={intake.error} /></div>; // prettier-ignore
  if (!i) return <Empty title="One moment…" />;
  const show = (change: Record<string, string>) =>
    setParams(Object.fromEntries(Object.entries({ state, cause, ...change }).filter(([, v]) => v)));
  const decide = (body: Schemas['IntakeEdit']) => edit.mutate({ version: i.version, body }, { onSuccess: () => setSelected(new Set()) });
  const chosen = [...selected].map(Number);

  return (
    <>
      <PageHead
        title={
          <>
            {i.number} <span className="font-normal text-soft">{i.supplier}</span>
          </>
        }
        sub={
          <span>
            <a className="underline" href={`/api/v1/files/${i.fileHash}?name=${encodeURIComponent(i.fileName)}`} download={i.fileName}>
              {i.fileName}
            </a>
            {i.layout && (
              <>
                {' '}
                read as {i.layout.format} {i.layout.encoding}{' '}
                {i.layout.delimiter && `with “${i.layout.delimiter === '\t' ? 'tab' : i.layout.delimiter}”`}{' '}
                {i.layout.sheet && `sheet “${i.layout.sheet}”`}, header in row {i.layout.headerRow}
              </>
            )}
          </span>
        }
      >
        <State of={i.state} />
        <Link className="text-sm underline" to={`/crosswalks?supplier=${encodeURIComponent(i.supplier)}&intake=${i.id}`}>
          Crosswalk
        </Link>
        {!taken && may('intake.take-in') && (
          <Button look="act" disabled={!!i.problem} onClick={() => setAsking(true)}>
            Take in…
          </Button>
        )}
      </PageHead>
      <JobLine job={i.job} />
      {i.problem && (
        <div className="p-3">
          <Trouble error={new Error(i.problem)} />
        </div>
      )}
      <Trouble error={edit.error} />
      <div
        className="flex flex-wrap items-center gap-2 border-b border-line bg-ground px-4 py-2 text-sm"
        role="group"
        aria-label="Rows by state"
      >
        <button
          type="button"
          aria-pressed={!state && !cause}
          className="rounded border border-line bg-sheet px-2 py-0.5 aria-pressed:border-b-amber aria-pressed:border-b-2"
          onClick={() => show({ state: '', cause: '' })}
        >
          all {i.rows}
        </button>
        {states.map(
          (s) =>
            (i.counts[s] ?? 0) > 0 && (
              <button
                key={s}
                type="button"
                aria-pressed={state === s}
                disabled={taken}
                className="rounded border border-line bg-sheet px-2 py-0.5 aria-pressed:border-b-2 aria-pressed:border-b-amber"
                onClick={() => show({ state: state === s ? '' : s })}
              >
                <State of={s} more={String(i.counts[s])} />
              </button>
            ),
        )}
        {i.unmapped.length > 0 && <span className="text-soft">Not mapped, kept with the file: {i.unmapped.join(', ')}</span>}
      </div>
      {taken ? (
        <Empty title={`${i.counts['new'] ?? 0} drafts were made`}>
          {i.job?.takenIn?.first && (
            <>
              From {i.job.takenIn.first} to {i.job.takenIn.last}.{' '}
            </>
          )}
          <Link className="underline" to="/parts?status=draft&sort=updated&down=true">
            Look at the drafts and release them
          </Link>
        </Empty>
      ) : (
        <div className="grid min-h-0 flex-1 grid-cols-1 lg:grid-cols-[17rem_1fr]">
          <Causes intake={i} cause={cause} onCause={(c) => show({ cause: c === cause ? '' : c, state: '' })} />
          <div className="flex min-h-0 flex-col">
            {selected.size > 0 && may('intake.edit') && (
              <div className="flex flex-wrap items-center gap-2 border-b border-line bg-amber-tint px-3 py-1 text-sm">
                {selected.size} rows:
                <Button onClick={() => decide({ leaveOut: chosen })}>Leave out</Button>
                <Button onClick={() => decide({ takeBack: chosen })}>Take decisions back</Button>
                <DrawerChoice onChoose={(drawer) => decide({ drawer, rows: chosen })} />
              </div>
            )}
            <DataTable
              label="Rows of the file"
              rows={all}
              total={rows.data?.pages[0]?.page.total}
              columns={columns}
              rowKey={(r) => String(r.row)}
              onOpen={setOpen}
              selected={may('intake.edit') ? selected : undefined}
              onSelect={may('intake.edit') ? setSelected : undefined}
              onView={onView}
              empty={rows.isPending ? undefined : <Empty title="No row fits the filter" />}
            />
          </div>
        </div>
      )}
      {open && <RowDialog row={open} onClose={() => setOpen(undefined)} />}
      {asking && <TakeInDialog intake={i} onClose={() => setAsking(false)} />}
    </>
  );
}

function DrawerChoice({ onChoose }: { onChoose: (drawer: string) => void }) {
  const cabinet = useDrawers();
  return (
    <Select label="Put into a drawer" hideLabel value="" onChange={(e) => e.target.value && onChoose(e.target.value)}>
      <option value="">Put into a drawer…</option>
      {cabinet.data?.drawers.filter((d) => d.leaf).map((d) => (
        <option key={d.key} value={d.key}>
          {d.label}
        </option>
      ))}
    </Select>
  ); // prettier-ignore
}

function Causes({ intake, cause, onCause }: { intake: Intake; cause: string; onCause: (c: string) => void }) {
  return (
    <aside aria-label="Findings by cause" className="min-h-0 overflow-auto border-r border-line bg-ground p-2 max-lg:max-h-48">
      <h2 className="mb-1 text-xs font-semibold text-soft">Findings by cause</h2>
      {intake.causes.length === 0 && !intake.problem && <p className="text-sm">Nothing was found wrong.</p>}
      <ul className="space-y-1.5">
        {intake.causes.map((c) => (
          <li key={c.cause}>
            <button
              type="button"
              aria-pressed={cause === c.cause}
              className="w-full rounded border border-line bg-sheet p-2 text-left text-sm aria-pressed:border-amber"
              onClick={() => onCause(c.cause)}
            >
              <State of={c.severity} more={`${c.count} ×`} />
              <span className="mt-1 block">{c.what}</span>
              {c.mend && <span className="block text-xs text-soft">{c.mend}</span>}
            </button>
          </li>
        ))}
      </ul>
      {intake.problem && intake.suggestions.length > 0 && (
        <>
          <h2 className="mt-3 mb-1 text-xs font-semibold text-soft">Suggested mapping</h2>
          <ul className="space-y-1 text-sm">
            {intake.suggestions.map((s) => (
              <li key={s.from}>
                <strong>{s.from}</strong> → {s.to} <span className="text-xs text-soft">{s.reason}</span>
              </li>
            ))}
          </ul>
        </>
      )}
    </aside>
  );
}

function JobLine({ job }: { job?: Schemas['Job'] }) {
  const live = job && (job.state === 'waiting' || job.state === 'running');
  const now = useJob(live ? job.id : undefined);
  const stop = useStopJob();
  const j = now.data ?? job;
  if (!j || j.state === 'done') return null;
  if (j.state === 'failed' || j.state === 'stopped') return <div className="p-3"><Trouble error={new Error(j.error ?? '')} /></div>; // prettier-ignore
  return (
    <div className="flex items-center gap-3 border-b border-line bg-tint px-4 py-2 text-sm" aria-live="polite">
      <progress className="w-64" max={j.total || 1} value={j.done} />
      Taking in: {j.done} of {j.total} parts. You may leave this page.
      <Button onClick={() => stop.mutate(j.id)}>Stop</Button>
    </div>
  );
}

function RowDialog({ row, onClose }: { row: Row; onClose: () => void }) {
  return (
    <Dialog open wide title={`Row ${row.row}: ${row.mpn ?? ''}`} onClose={onClose}>
      <p className="mb-2 text-sm">
        <State of={row.state} /> {row.why} {row.description && <strong>{row.description}</strong>}
      </p>
      <div className="grid gap-4 md:grid-cols-2">
        <dl className="grid grid-cols-[10rem_1fr] gap-y-1 text-sm">
          {Object.entries(row.values).map(([k, v]) => (
            <div key={k} className="contents">
              <dt className="text-soft">{k}</dt>
              <dd className="font-semibold">{v}</dd>
            </div>
          ))}
        </dl>
        <ul className="space-y-2 text-sm">
          {row.findings.map((f, n) => (
            <li key={n}>
              <State of={f.severity} /> {f.field && <strong>{f.field}: </strong>}
              {f.what}
              {f.mend && <span className="block text-xs text-soft">{f.mend}</span>}
            </li>
          ))}
        </ul>
      </div>
    </Dialog>
  );
}

function TakeInDialog({ intake, onClose }: { intake: Intake; onClose: () => void }) {
  const takeIn = useTakeIn(intake.id);
  const [leave, setLeave] = useState(false);
  const blocked = intake.counts['blocked'] ?? 0;
  return (
    <Dialog open title={`Take in ${intake.number}`} onClose={onClose}>
      <form
        className="space-y-3 text-sm"
        onSubmit={(e) => {
          e.preventDefault();
          takeIn.mutate({ version: intake.version, digest: intake.digest, leaveBlocked: leave }, { onSuccess: onClose });
        }}
      >
        <p>
          <strong>{intake.counts['new'] ?? 0} drafts</strong> will be made, all of them or none. {intake.counts['known'] ?? 0} rows are in
          the library already, {intake.counts['differs'] ?? 0} differ from it and are left alone, {intake.counts['repeat'] ?? 0} repeat an
          earlier row, {intake.counts['left out'] ?? 0} are left out by hand.
        </p>
        {blocked > 0 && (
          <label className="flex gap-2 rounded bg-amber-tint p-2">
            <input type="checkbox" checked={leave} onChange={(e) => setLeave(e.target.checked)} />
            {blocked} rows cannot be taken in. Leave them out.
          </label>
        )}
        <Trouble error={takeIn.error} />
        <Button look="act" type="submit" disabled={takeIn.isPending || (blocked > 0 && !leave)}>
          Take in {intake.counts['new'] ?? 0} parts
        </Button>
      </form>
    </Dialog>
  );
}
