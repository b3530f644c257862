import { useState } from 'react';
import { useNavigate } from 'react-router';
import { Button, Chip, Dialog, Field, Menu, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { useDropView, useSaveView, useViews, writeAddress, type Looking } from './lookup';

export interface Choice {
  key: string;
  label: string;
}

/** What can be done with the list as a whole: views, columns, grouping, sorting by several columns, files. */
export function ListTools({
  looking,
  columns,
  shown,
  onChange,
}: {
  looking: Looking;
  columns: Choice[];
  shown: string[];
  onChange: (change: Partial<Looking>) => void;
}) {
  const [open, setOpen] = useState<'columns' | 'views' | 'sort'>();
  const address = () => {
    const p = writeAddress(looking);
    p.set('columns', shown.join(','));
    return p;
  };
  const file = (format: string) => {
    const p = address();
    p.set('format', format);
    p.delete('beside'); // how the page is laid out is none of the question
    window.location.assign(`/api/v1/part-list?${p}`);
  };
  return (
    <>
      <Button onClick={() => setOpen('views')}>Views…</Button>
      <Button onClick={() => setOpen('columns')}>Columns…</Button>
      <Button onClick={() => setOpen('sort')}>Sort and group…</Button>
      <Menu
        label="Save as a file"
        items={[
          { text: 'XLSX', onSelect: () => file('xlsx') },
          { text: 'CSV', onSelect: () => file('csv') },
          { text: 'JSON', onSelect: () => file('json') },
        ]}
      />
      {open === 'columns' && <Columns {...{ columns, shown, onChange }} onClose={() => setOpen(undefined)} />}
      {open === 'sort' && <Sorting {...{ looking, columns, onChange }} onClose={() => setOpen(undefined)} />}
      {open === 'views' && <Views looking={looking} onClose={() => setOpen(undefined)} />}
    </>
  );
}

function Columns({
  columns,
  shown,
  onChange,
  onClose,
}: {
  columns: Choice[];
  shown: string[];
  onChange: (change: Partial<Looking>) => void;
  onClose: () => void;
}) {
  const toggle = (key: string) => onChange({ columns: shown.includes(key) ? shown.filter((k) => k !== key) : [...shown, key] });
  return (
    <Dialog title="Columns" open onClose={onClose}>
      <p className="mb-2 text-sm text-soft">Shown from left to right in the order they were chosen. The address remembers them.</p>
      <div className="grid grid-cols-2 gap-x-4 text-sm">
        {columns.map((c) => (
          <label key={c.key} className="flex min-h-6 items-center gap-2">
            <input type="checkbox" checked={shown.includes(c.key)} onChange={() => toggle(c.key)} />
            {c.label}
          </label>
        ))}
      </div>
      <div className="mt-3">
        <Button onClick={() => onChange({ columns: [] })}>The drawer’s own columns</Button>
      </div>
    </Dialog>
  );
}

function Sorting({
  looking,
  columns,
  onChange,
  onClose,
}: {
  looking: Looking;
  columns: Choice[];
  onChange: (change: Partial<Looking>) => void;
  onClose: () => void;
}) {
  const rows = [...looking.sort, { key: '', down: false }].slice(0, 3);
  const put = (i: number, key: string, down: boolean) =>
    onChange({ sort: rows.map((r, k) => (k === i ? { key, down } : r)).filter((r) => r.key !== '') });
  const options = (
    <>
      <option value="">–</option>
      {columns.map((c) => (
        <option key={c.key} value={c.key}>
          {c.label}
        </option>
      ))}
    </>
  );
  const box = 'min-h-7 flex-1 rounded border border-line bg-sheet px-2 text-sm';
  return (
    <Dialog title="Sort and group" open onClose={onClose}>
      <div className="space-y-2 text-sm">
        {rows.map((r, i) => (
          <div key={i} className="flex items-center gap-2">
            <label htmlFor={`sort-${i}`} className="w-20 text-soft">
              {i === 0 ? 'Sort by' : 'then by'}
            </label>
            <select id={`sort-${i}`} className={box} value={r.key} onChange={(e) => put(i, e.target.value, r.down)}>
              {options}
            </select>
            <label className="flex items-center gap-1">
              <input type="checkbox" checked={r.down} disabled={!r.key} onChange={() => put(i, r.key, !r.down)} /> largest first
            </label>
          </div>
        ))}
        <div className="flex items-center gap-2 border-t border-line pt-2">
          <label htmlFor="group" className="w-20 text-soft">
            Group by
          </label>
          <select id="group" className={box} value={looking.group} onChange={(e) => onChange({ group: e.target.value })}>
            <option value="">–</option>
            {columns
              .filter((c) => !['number', 'name', 'description', 'mpn', 'missing'].includes(c.key))
              .map((c) => (
                <option key={c.key} value={c.key}>
                  {c.label}
                </option>
              ))}
          </select>
        </div>
        <p className="text-soft">Measures are sorted by the size of the value; what has none comes last.</p>
      </div>
    </Dialog>
  );
}

function Views({ looking, onClose }: { looking: Looking; onClose: () => void }) {
  const views = useViews();
  const save = useSaveView();
  const drop = useDropView();
  const navigate = useNavigate();
  const say = useSay();
  const may = useMay();
  const [name, setName] = useState('');
  const [shared, setShared] = useState(false);
  const drawer = looking.filters.drawer?.length === 1 ? looking.filters.drawer[0] : '';
  return (
    <Dialog title="Views" open onClose={onClose}>
      <ul className="mb-3 divide-y divide-line text-sm">
        {views.data?.items.length === 0 && (
          <li className="py-1 text-soft">None saved yet. A view keeps search, filters, sorting, grouping and columns.</li>
        )}
        {views.data?.items.map((v) => (
          <li key={v.id} className="flex items-center gap-2 py-1">
            <button
              type="button"
              className="min-h-6 flex-1 text-left font-medium underline"
              onClick={() => {
                void navigate(`/parts?${v.query}`);
                onClose();
              }}
            >
              {v.name}
            </button>
            {v.drawer && <span className="text-soft">{v.drawer}</span>}
            {v.shared ? <Chip tone="plain">{v.own ? 'shared' : `shared by ${v.by}`}</Chip> : <Chip>own</Chip>}
            {v.own && (
              <button
                type="button"
                aria-label={`Remove the view ${v.name}`}
                className="min-h-6 rounded px-1.5 hover:bg-tint"
                onClick={() => drop.mutate(v.id)}
              >
                ✕
              </button>
            )}
          </li>
        ))}
      </ul>
      <form
        className="space-y-2 border-t border-line pt-3"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate(
            { name, shared, drawer, query: writeAddress(looking).toString() },
            { onSuccess: (v) => (say(`The view “${v.name}” is saved${v.shared ? ' and everybody sees it' : ''}.`), onClose()) },
          );
        }}
      >
        <Field
          label="Save what is shown now as"
          required
          maxLength={80}
          value={name}
          onChange={(e) => setName(e.target.value)}
          hint="A name of yours that is there already is replaced."
        />
        {may('view.share') && (
          <label className="flex items-center gap-2 text-sm">
            <input type="checkbox" checked={shared} onChange={() => setShared(!shared)} /> Others see it too
          </label>
        )}
        <Trouble error={save.error ?? drop.error} />
        <Button look="act" type="submit" disabled={save.isPending}>
          Save the view
        </Button>
      </form>
    </Dialog>
  );
}
