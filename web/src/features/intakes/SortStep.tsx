import { useState } from 'react';
import { Button, Empty, Field, Panel, Select } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { useMay } from '../people';
import { DrawerField, PutInto } from './DrawerChoice';
import { EditTrouble } from './EditTrouble';
import { useEditIntake, useRows, type Intake, type Row } from './queries';

const columns: Column<Row>[] = [
  { key: 'row', head: 'Row', width: 60, align: 'right', cell: (r) => r.row },
  { key: 'kind', head: 'Kind', width: 160, cell: (r) => r.kind },
  { key: 'mpn', head: 'MPN', width: 180, cell: (r) => r.mpn },
  { key: 'maker', head: 'Manufacturer', width: 160, cell: (r) => r.manufacturer },
  { key: 'why', head: 'Why', width: 240, grow: true, cell: (r) => r.why },
];

/** Where rows go: the pile of unsorted ones shrinks by kinds, by rules and by hand. */
export function SortStep({ intake: i }: { intake: Intake }) {
  const edit = useEditIntake(i.id);
  const may = useMay();
  const rows = useRows(i.id, i.version, i.digest, 'unsorted', '');
  const [selected, setSelected] = useState<Set<string>>(new Set());
  const [field, setField] = useState('');
  const [has, setHas] = useState('');
  const [into, setInto] = useState('');
  const kinds = i.causes.filter((c) => c.cause.startsWith('no-drawer:') && c.cause !== 'no-drawer:');
  const change = (body: Parameters<typeof edit.mutate>[0]['body']) =>
    edit.mutate({ version: i.version, body }, { onSuccess: () => setSelected(new Set()) });
  const sorted = Object.entries(i.crosswalk?.kinds ?? {});
  return (
    <div className="grid min-h-0 flex-1 grid-cols-1 lg:grid-cols-[26rem_minmax(0,1fr)]">
      <div className="min-h-0 space-y-3 overflow-auto border-r border-line p-3">
        <Panel title={`Kinds without a drawer (${kinds.length})`}>
          {kinds.length === 0 && <p className="text-sm text-soft">Every kind that the file names has a drawer.</p>}
          <ul className="space-y-1.5 text-sm">
            {kinds.map((c) => {
              const kind = c.cause.slice('no-drawer:'.length);
              const guess = c.mends.find((m) => !m.needs && m.change?.kinds);
              return (
                <li key={c.cause} className="flex flex-wrap items-center gap-2">
                  <span className="min-w-0 flex-1 truncate">
                    <strong>{kind}</strong> <span className="text-soft">{c.count} rows</span>
                  </span>
                  {guess && <Button onClick={() => change({ changes: guess.change ? [guess.change] : [] })}>{guess.label}</Button>}
                  {may('intake.edit') && (
                    <PutInto label={`Drawer of ${kind}`} onChoose={(drawer) => change({ changes: [{ kinds: { [kind]: drawer } }] })} />
                  )}
                </li>
              );
            })}
          </ul>
        </Panel>
        {may('intake.edit') && (
          <Panel title="A rule for rows that are alike">
            <form
              className="space-y-2"
              onSubmit={(e) => {
                e.preventDefault();
                change({ changes: [{ sorting: { field, ...(has ? { has } : { filled: true }), drawer: into } }] });
              }}
            >
              <Select label="Field" value={field} onChange={(e) => setField(e.target.value)}>
                <option value="">choose…</option>
                {i.fields.map((f) => (
                  <option key={f}>{f}</option>
                ))}
              </Select>
              <Field label="Has the words" hint="Blank: is filled at all" value={has} onChange={(e) => setHas(e.target.value)} />
              <DrawerField label="Goes into" value={into} onChoose={setInto} />
              <Button type="submit" disabled={!field || !into}>
                Make the rule
              </Button>
            </form>
          </Panel>
        )}
        {sorted.length > 0 && (
          <Panel title="Kinds that are mapped">
            <ul className="text-sm">
              {sorted.map(([k, d]) => (
                <li key={k}>
                  {k} → {d}
                </li>
              ))}
            </ul>
          </Panel>
        )}
        <EditTrouble intake={i} edit={edit} error={rows.error} />
      </div>
      <div className="flex min-h-0 min-w-0 flex-col">
        {selected.size > 0 && may('intake.edit') && (
          <div className="flex flex-wrap items-center gap-2 border-b border-line bg-amber-tint px-3 py-1 text-sm">
            {selected.size} rows:
            <PutInto label="Put into a drawer" onChoose={(drawer) => change({ drawer, rows: [...selected].map(Number) })} />
            <Button onClick={() => change({ leaveOut: [...selected].map(Number) })}>Leave out</Button>
          </div>
        )}
        <DataTable
          label="Unsorted rows"
          rows={rows.rows}
          total={rows.total}
          columns={columns}
          rowKey={(r) => String(r.row)}
          selected={may('intake.edit') ? selected : undefined}
          onSelect={may('intake.edit') ? setSelected : undefined}
          onView={rows.onView}
          empty={rows.answered && <Empty title="Every row has its drawer" />}
        />
      </div>
    </div>
  ); // prettier-ignore
}
