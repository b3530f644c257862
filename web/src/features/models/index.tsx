import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { api, based, take, upload, type Schemas } from '../../api/client';
import { Button, Chip, Dialog, Empty, Field, PageHead, Panel, Select, State, Trouble } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { useMay } from '../people';

type Model = Schemas['Model'];
type Kind = Schemas['ModelEdit']['kind'];
const kinds: Kind[] = ['symbol', 'land pattern', 'body'];

const columns: Column<Model>[] = [
  { key: 'name', head: 'Name', width: 260, grow: true, cell: (m) => <span className="font-semibold">{m.name}</span> },
  { key: 'kind', head: 'Kind', width: 130, cell: (m) => m.kind },
  { key: 'status', head: 'Status', width: 140, cell: (m) => <State of={m.status} more={m.revision ? String(m.revision) : ''} /> },
  { key: 'file', head: 'File', width: 260, cell: (m) => (m.draft ?? m.released)?.fileName },
  { key: 'updated', head: 'Changed', width: 180, cell: (m) => new Date(m.updated).toLocaleString() },
];

export function ModelList() {
  const [params, setParams] = useSearchParams();
  const kind = params.get('kind') ?? '';
  const q = params.get('q') ?? '';
  const models = useQuery({
    queryKey: ['models', kind, q],
    queryFn: () => take(api.GET('/api/v1/models', { params: { query: { kind: kind as Kind | '', q, limit: 1000 } } })),
  });
  const navigate = useNavigate();
  const may = useMay();
  const [adding, setAdding] = useState(false);
  return (
    <>
      <PageHead title="Models" sub={`${models.data?.page.total ?? '…'} symbols, land patterns and bodies`}>
        <Field label="Name" hideLabel placeholder="Name" value={q} onChange={(e) => setParams({ kind, q: e.target.value })} />
        <Select label="Kind" hideLabel value={kind} onChange={(e) => setParams({ kind: e.target.value, q })}>
          <option value="">all kinds</option>
          {kinds.map((k) => (
            <option key={k}>{k}</option>
          ))}
        </Select>
        {may('model.edit') && (
          <Button look="act" onClick={() => setAdding(true)}>
            Add a model…
          </Button>
        )}
      </PageHead>
      <Trouble error={models.error} />
      <div className="min-h-0 flex-1">
        <DataTable
          label="Models"
          rows={models.data?.items ?? []}
          columns={columns}
          rowKey={(m) => m.id}
          onOpen={(m) => void navigate(`/models/${m.id}`)}
          empty={models.isPending ? undefined : <Empty title="No model fits">Add a symbol, a land pattern or a body with its file.</Empty>}
        />
      </div>
      {adding && <ModelDialog onClose={() => setAdding(false)} onDone={(m) => void navigate(`/models/${m.id}`)} />}
    </>
  );
}

export function ModelPage() {
  const { id = '' } = useParams();
  const model = useQuery({ queryKey: ['model', id], queryFn: () => take(api.GET('/api/v1/models/{id}', { params: { path: { id } } })) });
  const may = useMay();
  const [open, setOpen] = useState<'edit' | 'release'>();
  if (model.error) return <div className="p-4"><Trouble error={model.error} /></div>; // prettier-ignore
  const m = model.data;
  if (!m) return <Empty title="One moment…" />;
  const content = m.draft ?? m.released;
  return (
    <>
      <PageHead
        title={m.name}
        sub={
          <span className="flex gap-2">
            {m.kind} <State of={m.status} more={m.revision ? `revision ${m.revision}` : ''} />{' '}
            {m.draft && m.revision > 0 && <Chip tone="open">draft not released yet</Chip>}
          </span>
        }
      >
        {may('model.edit') && <Button onClick={() => setOpen('edit')}>New draft…</Button>}
        {may('model.release') && m.draft && (
          <Button look="act" onClick={() => setOpen('release')}>
            Release…
          </Button>
        )}
      </PageHead>
      <div className="grid min-h-0 flex-1 content-start gap-3 overflow-auto p-4 lg:grid-cols-2">
        <Panel title="File">
          {content?.fileHash ? (
            <a
              className="text-sm underline"
              href={`/api/v1/files/${content.fileHash}?name=${encodeURIComponent(content.fileName ?? '')}`}
              download={content.fileName}
            >
              {content.fileName}
            </a>
          ) : (
            <p className="text-sm text-soft">No file yet: a model is released with its file.</p>
          )}
          {content?.note && <p className="mt-2 text-sm">{content.note}</p>}
        </Panel>
        <Panel title="Revisions">
          {m.revisions.length === 0 && <p className="text-sm text-soft">Not released yet.</p>}
          <ol className="text-sm">
            {m.revisions.map((r) => (
              <li key={r.number}>
                <strong>{r.number}</strong> {r.note}{' '}
                <span className="text-xs text-soft">
                  · {r.by}, {new Date(r.at).toLocaleString()}
                </span>
              </li>
            ))}
          </ol>
        </Panel>
        <Panel title={`Used by ${m.uses.length}`}>
          {m.uses.length === 0 && <p className="text-sm text-soft">No part uses it.</p>}
          <ul className="columns-2 text-sm">
            {m.uses.map((u) => (
              <li key={u.part + u.place}>
                <Link className="underline" to={`/parts/${encodeURIComponent(u.part)}`}>
                  {u.part}
                </Link>{' '}
                <span className="text-xs text-soft">
                  {u.place.split(' ')[0]}, revision {u.revision}
                </span>{' '}
                {u.newer && <Chip tone="open">behind</Chip>}
              </li>
            ))}
          </ul>
        </Panel>
      </div>
      {open === 'edit' && <ModelDialog model={m} onClose={() => setOpen(undefined)} onDone={() => setOpen(undefined)} />}
      {open === 'release' && <ReleaseDialog model={m} onClose={() => setOpen(undefined)} />}
    </>
  );
}

function ModelDialog({ model, onClose, onDone }: { model?: Model; onClose: () => void; onDone: (m: Model) => void }) {
  const was = model?.draft ?? model?.released;
  const [kind, setKind] = useState<Kind>(was?.kind ?? 'symbol');
  const [name, setName] = useState(was?.name ?? '');
  const [note, setNote] = useState(was?.note ?? '');
  const [file, setFile] = useState<File>();
  const queries = useQueryClient();
  const save = useMutation({
    mutationFn: async () => {
      const kept = file ? await upload(file) : undefined;
      const body = { kind, name, note, fileHash: kept?.hash ?? was?.fileHash, fileName: kept?.name ?? was?.fileName };
      return model
        ? take(api.PUT('/api/v1/models/{id}/draft', { params: { path: { id: model.id }, header: based(model.version) }, body }))
        : take(api.POST('/api/v1/models', { body }));
    },
    onSuccess: (m) => {
      void queries.invalidateQueries();
      onDone(m);
    },
  });
  return (
    <Dialog open title={model ? `New draft of ${model.name}` : 'Add a model'} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        <Select label="Kind" value={kind} disabled={!!model} onChange={(e) => setKind(e.target.value as Kind)}>
          {kinds.map((k) => (
            <option key={k}>{k}</option>
          ))}
        </Select>
        <Field label="Name" required maxLength={100} value={name} onChange={(e) => setName(e.target.value)} />
        <Field
          label="File"
          type="file"
          hint={was?.fileName ? `Now ${was.fileName}` : 'Kept as it is, by its hash'}
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

function ReleaseDialog({ model, onClose }: { model: Model; onClose: () => void }) {
  const [note, setNote] = useState('');
  const queries = useQueryClient();
  const release = useMutation({
    mutationFn: () =>
      take(api.POST('/api/v1/models/{id}/release', { params: { path: { id: model.id }, header: based(model.version) }, body: { note } })),
    onSuccess: () => {
      void queries.invalidateQueries();
      onClose();
    },
  });
  return (
    <Dialog open title={`Release ${model.name} as revision ${model.revision + 1}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          release.mutate();
        }}
      >
        <p className="text-sm">Parts keep the revision they were released with; those that use an older one are shown as behind.</p>
        <Field label="Note" required maxLength={2000} value={note} onChange={(e) => setNote(e.target.value)} />
        <Trouble error={release.error} />
        <Button look="act" type="submit" disabled={release.isPending}>
          Release
        </Button>
      </form>
    </Dialog>
  );
}
