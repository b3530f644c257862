import { useState } from 'react';
import type { Schemas } from '../../api/client';
import { Button, Dialog, Empty, Field, State, Trouble } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { useMay } from '../people';
import { DrawerField, PutInto } from './DrawerChoice';
import { RowDialog } from './RowDialog';
import { EditTrouble } from './EditTrouble';
import { Preview } from './Preview';
import { useEditIntake, useIntakeDeeds, useRows, type Intake, type Row } from './queries';

const columns: Column<Row>[] = [
  { key: 'row', head: 'Row', width: 62, align: 'right', cell: (r) => r.row },
  { key: 'state', head: 'State', width: 95, cell: (r) => <State of={r.state} /> },
  { key: 'mpn', head: 'MPN', width: 135, cell: (r) => r.mpn },
  { key: 'description', head: 'Would become', width: 170, grow: true, cell: (r) => <span title={r.description}>{r.description}</span> },
  { key: 'why', head: 'Why, and findings', width: 235, grow: true, cell: (r) => <span title={words(r)}>{words(r)}</span> },
  { key: 'number', head: 'Part', width: 100, cell: (r) => r.number },
  { key: 'drawer', head: 'Drawer', width: 150, cell: (r) => <span title={r.because}>{r.drawer ?? r.kind}</span> },
  { key: 'maker', head: 'Manufacturer', width: 150, cell: (r) => r.manufacturer },
];

function words(r: Row) {
  return [r.changes.map((c) => `${c.key}: ${c.old || 'blank'} → ${c.new}`).join('; '), r.why, ...r.findings.map((f) => f.what)]
    .filter((w, i, all) => w && all.indexOf(w) === i)
    .join('; ');
}

type Mend = Schemas['IntakeMend'];
type Stated = Schemas['MoveStated']['stated'];

/** What is wrong, by cause, beside the rows that it is found in. */
export function MendStep({
  intake: i,
  state,
  cause,
  onShow,
}: {
  intake: Intake;
  state: string;
  cause: string;
  onShow: (v: { state?: string; cause?: string }) => void;
}) {
  const edit = useEditIntake(i.id);
  const may = useMay();
  const rows = useRows(i.id, i.version, i.digest, state, cause);
  const [selected, setSelected] = useState<Set<string>>(new Set());
  const [open, setOpen] = useState<number>();
  const chosen = [...selected].map(Number);
  const change = (body: Schemas['IntakeEdit']) => edit.mutate({ version: i.version, body }, { onSuccess: () => setSelected(new Set()) });
  return (
    <div className="grid min-h-0 flex-1 grid-cols-1 lg:grid-cols-[21rem_minmax(0,1fr)]">
      <Causes intake={i} cause={cause} busy={edit.isPending} onCause={(c) => onShow({ cause: c === cause ? '' : c, state: '' })} onChange={change} />
      <div className="flex min-h-0 min-w-0 flex-col">
        <EditTrouble intake={i} edit={edit} error={rows.error} />
        {selected.size > 0 && may('intake.edit') && (
          <div className="flex flex-wrap items-center gap-2 border-b border-line bg-amber-tint px-3 py-1 text-sm">
            {selected.size} rows:
            <Button onClick={() => change({ leaveOut: chosen })}>Leave out</Button>
            <Button onClick={() => change({ takeBack: chosen })}>Take decisions back</Button>
            <Button onClick={() => change({ rows: chosen, decide: { as: 'fill' } })}>Fill blanks</Button>
            <Button onClick={() => change({ rows: chosen, decide: { as: 'replace' } })}>File’s values win</Button>
            <Button onClick={() => change({ rows: chosen, decide: { as: 'alternate' } })}>Another source</Button>
            <PutInto label="Put into a drawer" onChoose={(drawer) => change({ drawer, rows: chosen })} />
          </div>
        )}
        <div className="min-h-0 flex-1">
          <DataTable
            label="Rows of the file"
            rows={rows.rows}
            total={rows.total}
            columns={columns}
            rowKey={(r) => String(r.row)}
            onOpen={(r) => setOpen(r.row)}
            selected={may('intake.edit') ? selected : undefined}
            onSelect={may('intake.edit') ? setSelected : undefined}
            onView={rows.onView}
            empty={rows.answered && <Empty title="No row fits the filter" />}
          />
        </div>
      </div>
      {open !== undefined && <RowDialog intake={i} row={open} onClose={() => setOpen(undefined)} onChange={change} error={edit.error} />}
    </div>
  ); // prettier-ignore
}

function Causes({
  intake,
  cause,
  busy,
  onCause,
  onChange,
}: {
  intake: Intake;
  cause: string;
  busy: boolean;
  onCause: (c: string) => void;
  onChange: (body: Schemas['IntakeEdit']) => void;
}) {
  const may = useMay();
  const deeds = useIntakeDeeds(intake.id);
  const edit = useEditIntake(intake.id); // of mends: what goes wrong is said in their preview
  const [asking, setAsking] = useState<{ mend: Mend; cause: string }>();
  const [looking, setLooking] = useState<{ title: string; body: Schemas['IntakeEdit']; choice?: Schemas['IntakeNewChoice'] }>();
  const mend = (m: Mend, c: string) => {
    const look = (body: Schemas['IntakeEdit']) => setLooking({ title: m.label, body });
    if (m.needs || m.waive || m.stated) setAsking({ mend: m, cause: c });
    else if (m.choice) setLooking({ title: m.label, body: {}, choice: m.choice });
    else if (m.numbers) deeds.numbers.mutate();
    else if (m.leaveOut) look({ leaveCause: c });
    else if (m.decided) look({ decided: { cause: c, as: m.decided } });
    else if (m.change) look({ changes: [m.change] });
    else look({ settleCause: { cause: c, as: (m.known ?? m.like) as 'fill' } });
  };
  return (
    <aside aria-label="Findings by cause" className="min-h-0 overflow-auto border-r border-line bg-ground p-2 max-lg:max-h-60">
      <h2 className="mb-1 text-xs font-semibold text-soft">Findings by cause</h2>
      {intake.causes.length === 0 && !intake.problem && <p className="text-sm">Nothing was found wrong.</p>}
      <Trouble error={deeds.numbers.error ?? deeds.stated.error} />
      <ul className="space-y-1.5">
        {intake.causes.map((c) => (
          <li key={c.cause} className={`rounded border bg-sheet text-sm ${cause === c.cause ? 'border-amber' : 'border-line'}`}>
            <button type="button" aria-pressed={cause === c.cause} className="w-full p-2 text-left" onClick={() => onCause(c.cause)}>
              <State of={c.severity} more={`${c.count} ×`} />
              {(c.waived ?? 0) > 0 && <span className="ml-1 text-xs text-soft">{c.waived} more accepted</span>}
              <span className="mt-1 block">{c.what}</span>
              {(c.examples?.length ?? 0) > 1 && <span className="block truncate text-xs text-soft">such as {c.examples?.join(', ')}</span>}
              {c.mend && <span className="block text-xs text-soft">{c.mend}</span>}
            </button>
            {cause === c.cause && may('intake.edit') && (
              <div ref={(el) => el?.scrollIntoView({ block: "nearest" })} className="flex flex-col items-stretch gap-1 border-t border-line p-2">
                {c.mends.map((m) => (
                  <button
                    key={m.label}
                    type="button"
                    disabled={busy || (m.choice && !may('cabinet.apply'))}
                    className="rounded border border-line px-2 py-1 text-left text-sm hover:bg-tint disabled:opacity-50"
                    onClick={() => mend(m, c.cause)}
                  >
                    {m.label}
                  </button>
                ))}
              </div>
            )}
          </li>
        ))}
      </ul>
      {intake.waived.length > 0 && (
        <>
          <h2 className="mt-3 mb-1 text-xs font-semibold text-soft">Accepted</h2>
          <ul className="space-y-1 text-sm">
            {intake.waived.map((w, n) => (
              <li key={n} className="flex items-start justify-between gap-2">
                <span>
                  {w.cause}: {w.why} <span className="text-soft">({w.who})</span>
                </span>
                {may('intake.edit') && (
                  <Button look="quiet" aria-label={`Take back: ${w.cause}`} onClick={() => onChange({ dropWaivers: [n] })}>
                    Take back
                  </Button>
                )}
              </li>
            ))}
          </ul>
        </>
      )}
      {looking && <Preview intake={intake} edit={edit} {...looking} onClose={() => setLooking(undefined)} />}
      {asking && (
        <AskDialog
          mend={asking.mend}
          onClose={() => setAsking(undefined)}
          onSay={(text) => {
            const { mend: m, cause: c } = asking;
            if (m.stated) deeds.stated.mutate({ stated: m.stated as Stated, note: text });
            else if (m.waive) onChange({ waive: { cause: c, why: text } });
            else if (m.change) setLooking({ title: m.label, body: { changes: [said(m.change, m.needs ?? '', text)] } });
            setAsking(undefined);
          }}
        />
      )}
    </aside>
  ); // prettier-ignore
}

/** Puts what a person says into the blank of a mend. */
function said(change: Schemas['CrosswalkChange'], needs: string, text: string): Schemas['CrosswalkChange'] {
  if (needs === 'drawer' && change.drawer !== undefined) return { ...change, drawer: text };
  if (needs === 'drawer') return { ...change, kinds: Object.fromEntries(Object.keys(change.kinds ?? {}).map((k) => [k, text])) };
  if (!change.rule) return change;
  if (needs === 'text') return { ...change, rule: { ...change.rule, constant: text } };
  const words = Object.fromEntries(Object.entries(change.rule.words ?? {}).map(([k, v]) => [k, v || text]));
  return { ...change, rule: { ...change.rule, words } };
}

function AskDialog({ mend, onClose, onSay }: { mend: Mend; onClose: () => void; onSay: (text: string) => void }) {
  const [text, setText] = useState('');
  return (
    <Dialog open title={mend.label} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          onSay(text);
        }}
      >
        {mend.needs === 'drawer' ? (
          <DrawerField label="Drawer" value={text} onChoose={setText} />
        ) : (
          <Field label={mend.waive || mend.stated ? 'Reason' : 'Text'} required value={text} onChange={(e) => setText(e.target.value)} />
        )}
        <Button look="act" type="submit" disabled={!text}>
          {mend.waive ? 'Accept' : mend.stated ? 'Move them' : 'Use it'}
        </Button>
      </form>
    </Dialog>
  );
}
