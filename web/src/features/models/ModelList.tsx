import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { api, take, upload } from '../../api/client';
import { Drawing } from '../../ui/drawing';
import { Button, Chip, Dialog, Empty, Field, Menu, PageHead, Select, State, Trouble } from '../../ui/kit';
import { preview } from '../../ui/previews';
import { DataTable, type Column } from '../../ui/table';
import { useMay } from '../people';
import { kinds, useDeed, type Kind, type Row, parts } from './queries';

const columns: Column<Row>[] = [
  { key: 'name', head: 'Name', width: 260, grow: true, cell: (m) => <span className="font-semibold">{m.name}</span> },
  { key: 'kind', head: 'Kind', width: 120, cell: (m) => m.kind },
  { key: 'what', head: 'What', width: 230, cell: (m) => m.what },
  { key: 'status', head: 'Status', width: 130, cell: (m) => <State of={m.status} more={m.revision ? String(m.revision) : ''} /> },
  { key: 'uses', head: 'Used by', width: 90, cell: (m) => m.uses },
  { key: 'findings', head: 'Findings', width: 90, cell: (m) => (m.findings ? <Chip tone="open">{m.findings}</Chip> : '') },
  { key: 'updated', head: 'Changed', width: 170, cell: (m) => new Date(m.updated).toLocaleString() },
];

const narrowed = { '': 'all', unused: 'used by no part', draft: 'with a draft', 'stand-in': 'stand-ins', findings: 'with findings' };

/** The tabs of everything that has to do with models. */
export function ModelTabs({ at }: { at: string }) {
  const tabs = {
    '/models': 'Library',
    '/deliveries': 'Deliveries',
    '/models/checks': 'Checks',
    '/models/twins': 'Twins',
    '/models/make-symbol': 'Make a symbol',
    '/models/make-land-pattern': 'Make a land pattern',
  };
  return (
    <nav aria-label="Models" className="flex flex-wrap gap-x-4 border-b border-line bg-sheet px-4">
      {Object.entries(tabs).map(([to, text]) => (
        <Link
          key={to}
          to={to}
          aria-current={at === to ? 'page' : undefined}
          className={`border-b-2 py-1.5 text-sm ${at === to ? 'border-water font-semibold' : 'border-transparent text-soft hover:text-ink'}`}
        >
          {text}
        </Link>
      ))}
    </nav>
  );
}

export function ModelList() {
  const [params, setParams] = useSearchParams();
  const kind = params.get('kind') ?? '';
  const q = params.get('q') ?? '';
  const only = params.get('only') ?? '';
  const rows = params.get('view') === 'rows';
  const set = (key: string, value: string) => {
    const next = new URLSearchParams(params);
    if (value) next.set(key, value);
    else next.delete(key);
    setParams(next, { replace: true });
  };
  const models = useQuery({
    queryKey: ['models', kind, q, only],
    queryFn: () =>
      take(api.GET('/api/v1/models', { params: { query: { kind: kind as Kind | '', q, only: only as '' | 'unused', limit: 1000 } } })),
  });
  const navigate = useNavigate();
  const may = useMay();
  const [adding, setAdding] = useState(false);
  const items = models.data?.items ?? [];
  return (
    <>
      <PageHead title="Models" sub={`${models.data?.page.total ?? '…'} symbols, land patterns and bodies`}>
        <Field label="Name" hideLabel placeholder="Name" value={q} onChange={(e) => set('q', e.target.value)} />
        <Select label="Kind" hideLabel value={kind} onChange={(e) => set('kind', e.target.value)}>
          <option value="">all kinds</option>
          {[...kinds, 'pin map'].map((k) => (
            <option key={k}>{k}</option>
          ))}
        </Select>
        <Select label="Narrow" hideLabel value={only} onChange={(e) => set('only', e.target.value)}>
          {Object.entries(narrowed).map(([k, text]) => (
            <option key={k} value={k}>
              {text}
            </option>
          ))}
        </Select>
        <Button onClick={() => set('view', rows ? '' : 'rows')}>{rows ? 'As drawings' : 'As a table'}</Button>
        {may('model.edit') && (
          <Menu
            label="Draw ▾"
            items={(['symbol', 'land pattern'] as const).map((k) => ({
              text: `A ${k}`,
              onSelect: () => void navigate(`/models/draw?kind=${encodeURIComponent(k)}`),
            }))}
          />
        )}
        {may('model.edit') && (
          <Button look="act" onClick={() => setAdding(true)}>
            Add a model…
          </Button>
        )}
      </PageHead>
      <ModelTabs at="/models" />
      <Trouble error={models.error} />
      {rows ? (
        <div className="min-h-0 flex-1">
          <DataTable
            label="Models"
            rows={items}
            columns={columns}
            rowKey={(m) => m.id}
            onOpen={(m) => void navigate(`/models/${m.id}`)}
            empty={models.isSuccess && <Empty title="No model fits">Add one with its file, or bring in a delivery.</Empty>}
          />
        </div>
      ) : (
        <div className="min-h-0 flex-1 overflow-auto p-4">
          {items.length === 0 && models.isSuccess && <Empty title="No model fits">Add one with its file, or bring in a delivery.</Empty>}
          <ul className="grid grid-cols-[repeat(auto-fill,minmax(11.5rem,1fr))] gap-2">
            {items.map((m) => (
              <li key={m.id} className="[contain-intrinsic-size:auto_11rem] [content-visibility:auto]">
                <ModelCard m={m} />
              </li>
            ))}
          </ul>
        </div>
      )}
      {adding && <AddDialog onClose={() => setAdding(false)} onDone={(id) => void navigate(`/models/${id}`)} />}
    </>
  );
}

export function ModelCard({ m }: { m: Row }) {
  return (
    <Link to={`/models/${m.id}`} className="block h-full rounded border border-line bg-sheet p-2 hover:bg-tint">
      <div className="h-24">
        {m.drawn ? (
          <Drawing src={preview(m.id, m.content, true)} alt={`Drawing of ${m.name}`} />
        ) : (
          <p className="pt-8 text-center text-xs text-soft">no drawing</p>
        )}
      </div>
      <p className="mt-1 truncate text-sm font-semibold" title={m.name}>
        {m.name}
      </p>
      <p className="truncate text-xs text-soft" title={m.what}>
        {m.kind} · {m.what}
      </p>
      <p className="flex flex-wrap items-center gap-1 text-xs">
        <State of={m.status} more={m.revision ? String(m.revision) : ''} /> {m.uses > 0 && <span>{parts(m.uses)}</span>}
        {m.findings > 0 && <Chip tone="open">{m.findings === 1 ? '1 finding' : `${m.findings} findings`}</Chip>}
      </p>
    </Link>
  );
}

function AddDialog({ onClose, onDone }: { onClose: () => void; onDone: (id: string) => void }) {
  const [kind, setKind] = useState<Kind>('symbol');
  const [name, setName] = useState('');
  const [note, setNote] = useState('');
  const [file, setFile] = useState<File>();
  const save = useDeed(
    async () => {
      const kept = file ? await upload(file) : undefined;
      return take(api.POST('/api/v1/models', { body: { kind, name, note, fileHash: kept?.hash, fileName: kept?.name } }));
    },
    (m) => onDone(m.id),
  );
  return (
    <Dialog open title="Add a model" onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate(undefined);
        }}
      >
        <Select label="Kind" value={kind} onChange={(e) => setKind(e.target.value as Kind)}>
          {kinds.map((k) => (
            <option key={k}>{k}</option>
          ))}
        </Select>
        <Field label="Name" required maxLength={100} value={name} onChange={(e) => setName(e.target.value)} />
        <Field
          label="File"
          type="file"
          required
          hint="Our own form, EDIF, IPC-2581 or STEP with one model of this kind. Archives and libraries come in as deliveries."
          onChange={(e) => setFile(e.target.files?.[0])}
        />
        <Field label="Note" maxLength={2000} value={note} onChange={(e) => setNote(e.target.value)} />
        <Trouble error={save.error} />
        <Button look="act" type="submit" disabled={save.isPending}>
          Save as a draft
        </Button>
      </form>
    </Dialog>
  );
}
