import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import type { Schemas } from '../../api/client';
import { pill } from '../../ui/filters';
import { Button, Empty, PageHead, State, Trouble } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { useMay } from '../people';
import { EditTrouble } from './EditTrouble';
import { useAllDecisions, useEditIntake, useIntakeDecisions, useWithdraw, type Intake } from './queries';

type Decision = Schemas['Decision'];

const aboutWords = (d: Decision) =>
  Object.entries(d.about)
    .filter(([, text]) => text)
    .map(([field, text]) => `${field} “${text}”`)
    .join(', ');

/** What was decided, in words. */
function outcomeWords(d: Decision) {
  const what = {
    'left-out': 'left out',
    drawer: `goes into ${d.outcome ?? ''}`,
    cell: `${d.field ?? ''}: “${d.outcome ?? ''}” for “${d.seen[d.field ?? ''] ?? ''}”`,
    settled: `settled as ${d.outcome ?? ''}`,
    accepted: `accepted: ${d.field ?? ''}`,
  }[d.kind];
  return d.why ? `${what}, ${d.why}` : what;
}

const fateWords = {
  holds: 'holds',
  needless: 'no longer needed',
  otherwise: 'the file says otherwise',
  absent: 'not in this file',
} as const;

const columns: Column<Decision>[] = [
  { key: 'about', head: 'About', width: 230, grow: true, cell: (d) => <span title={aboutWords(d)}>{d.row}</span> },
  { key: 'what', head: 'Decided', width: 250, grow: true, cell: (d) => <span title={outcomeWords(d)}>{outcomeWords(d)}</span> },
  { key: 'by', head: 'By', width: 130, cell: (d) => d.by },
  { key: 'at', head: 'On', width: 100, cell: (d) => (d.at ? d.at.slice(0, 10) : '') },
  { key: 'in', head: 'In', width: 90, cell: (d) => d.intake },
];

const standing: Column<Decision>[] = [
  ...columns,
  {
    key: 'fate',
    head: 'Stands',
    width: 165,
    cell: (d) => (
      <span title={d.withdrawn && `For later files taken back by ${d.withdrawn}`}>
        <State of={fateWords[d.fate ?? 'holds']} more={d.withdrawn && '(taken back for later files)'} />
      </span>
    ),
  },
  { key: 'rows', head: 'Rows', width: 75, align: 'right', cell: (d) => d.rows.slice(0, 3).join(', ') + (d.rows.length > 3 ? ' …' : '') },
];

/** The decisions of one intake: made here or in earlier files, with how each stands in this file. */
export function DecidedStep({ intake: i }: { intake: Intake }) {
  const [fate, setFate] = useState('');
  const list = useIntakeDecisions(i.id, i.version, fate);
  const edit = useEditIntake(i.id);
  const may = useMay();
  const [selected, setSelected] = useState<Set<string>>(new Set());
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <EditTrouble intake={i} edit={edit} error={list.error} />
      <div className="flex flex-wrap items-center gap-2 border-b border-line px-4 py-1.5 text-sm" role="group" aria-label="Decisions by how they stand">
        <button type="button" aria-pressed={!fate} className={pill} onClick={() => setFate('')}>
          all
        </button>
        {Object.entries(fateWords).map(
          ([key, word]) =>
            (i.decisions[key] ?? 0) > 0 && (
              <button key={key} type="button" aria-pressed={fate === key} className={pill} onClick={() => setFate(fate === key ? '' : key)}>
                <State of={word} more={String(i.decisions[key])} />
              </button>
            ),
        )}
        {selected.size > 0 && may('intake.edit') && (
          <Button
            look="danger"
            disabled={edit.isPending}
            onClick={() => edit.mutate({ version: i.version, body: { withdraw: [...selected] } }, { onSuccess: () => setSelected(new Set()) })}
          >
            Take {selected.size} back
          </Button>
        )}
      </div>
      <div className="min-h-0 flex-1">
        <DataTable
          label="Decisions"
          rows={list.rows}
          total={list.total}
          columns={standing}
          rowKey={(d) => d.id}
          selected={may('intake.edit') ? selected : undefined}
          onSelect={may('intake.edit') ? setSelected : undefined}
          onView={list.onView}
          empty={
            list.answered && (
              <Empty title="Nothing was decided about rows">
                Cells that are corrected, rows that are left out, put into a drawer or settled, and findings that are accepted are remembered for
                the supplier’s next file and listed here.
              </Empty>
            )
          }
        />
      </div>
    </div>
  ); // prettier-ignore
}

/** What was decided about rows of all files, to look at and to take back. */
export function DecisionsPage() {
  const [params, setParams] = useSearchParams();
  const supplier = params.get('supplier') ?? '';
  const withdrawn = params.get('withdrawn') === 'yes';
  const list = useAllDecisions(supplier, withdrawn);
  const back = useWithdraw();
  const may = useMay();
  const [selected, setSelected] = useState<Set<string>>(new Set());
  const all: Column<Decision>[] = [
    { key: 'supplier', head: 'Supplier', width: 170, cell: (d) => <Link className="underline" to={`/decisions?supplier=${encodeURIComponent(d.supplier)}`}>{d.supplier}</Link> },
    ...columns,
    ...(withdrawn ? [{ key: 'gone', head: 'Taken back', width: 190, cell: (d: Decision) => d.withdrawn ?? '' }] : []),
  ]; // prettier-ignore
  return (
    <>
      <PageHead
        title="Decisions"
        sub={
          supplier ? (
            <>
              About files of {supplier}.{' '}
              <Link className="underline" to="/decisions">
                Of all suppliers
              </Link>
            </>
          ) : (
            'What people decided about rows of suppliers’ files. Each holds for the supplier’s next file, where the row says the same.'
          )
        }
      >
        <label className="flex items-center gap-1 text-sm">
          <input
            type="checkbox"
            checked={withdrawn}
            onChange={(e) => setParams({ ...(supplier && { supplier }), ...(e.target.checked && { withdrawn: 'yes' }) })}
          />
          Also what was taken back
        </label>
        {selected.size > 0 && may('intake.edit') && (
          <Button look="danger" disabled={back.isPending} onClick={() => back.mutate([...selected], { onSuccess: () => setSelected(new Set()) })}>
            Take {selected.size} back for later files
          </Button>
        )}
      </PageHead>
      <Trouble error={list.error ?? back.error} />
      <div className="min-h-0 flex-1">
        <DataTable
          label="Decisions"
          rows={list.rows}
          total={list.total}
          columns={all}
          rowKey={(d) => d.id}
          selected={may('intake.edit') ? selected : undefined}
          onSelect={may('intake.edit') ? setSelected : undefined}
          onView={list.onView}
          empty={list.answered && <Empty title="Nothing was decided about rows yet" />}
        />
      </div>
    </>
  ); // prettier-ignore
}
