import { useState } from 'react';
import { useNavigate } from 'react-router';
import { Button, Dialog, Empty, Field, LifeState, PageHead, Trouble } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { useMay } from '../people';
import { OriginField } from './BomDialogs';
import { boardIn, FilesField, type Chosen } from './FilesField';
import { SeveritiesDialog } from './SeveritiesDialog';
import { SheetsDialog } from './SheetsDialog';
import { useBoms, useBringBom, type BOM } from './queries';

const columns: Column<BOM>[] = [
  { key: 'name', head: 'Board', width: 240, grow: true, cell: (b) => <span className="font-semibold">{b.name}</span> },
  {
    key: 'state',
    head: 'State',
    width: 130,
    cell: (b) => <LifeState of={b.states.draft ?? b.states.status} more={b.states.draft ? undefined : b.states.label} />,
  },
  { key: 'file', head: 'File', width: 240, cell: (b) => b.fileName },
  { key: 'origin', head: 'Comes from', width: 180, cell: (b) => b.origin ?? '' },
  { key: 'updated', head: 'Changed', width: 180, cell: (b) => new Date(b.updated).toLocaleString() },
];

export function BomList() {
  const boms = useBoms();
  const navigate = useNavigate();
  const may = useMay();
  const [opening, setOpening] = useState(false);
  const [severities, setSeverities] = useState(false);
  const [forms, setForms] = useState(false);
  return (
    <>
      <PageHead title="BOMs" sub="Laid beside the library: what is a record, what is bare, where the two disagree.">
        <Button onClick={() => setForms(true)}>Sheets of the house…</Button>
        <Button onClick={() => setSeverities(true)}>How bad findings are…</Button>
        <Button onClick={() => void navigate('/where-used')}>Where used…</Button>
        {may('bom.edit') && (
          <Button look="act" onClick={() => setOpening(true)}>
            Bring in a BOM…
          </Button>
        )}
      </PageHead>
      <Trouble error={boms.error} />
      <div className="min-h-0 flex-1">
        <DataTable
          label="BOMs"
          rows={boms.data?.items ?? []}
          columns={columns}
          rowKey={(b) => b.id}
          onOpen={(b) => void navigate(`/boms/${encodeURIComponent(b.name)}`)}
          empty={
            boms.isSuccess && (
              <Empty title="No BOM yet">
                Bring one in as your design tool wrote it: CSV, XLSX, ODS, JSON or IPC-2581, with designators.
              </Empty>
            )
          }
        />
      </div>
      {forms && <SheetsDialog mayApply={may('sheets.apply')} onClose={() => setForms(false)} />}
      {severities && <SeveritiesDialog mayApply={may('severities.apply')} onClose={() => setSeverities(false)} />}
      {opening && <OpenDialog onClose={() => setOpening(false)} />}
    </>
  );
}

function OpenDialog({ onClose }: { onClose: () => void }) {
  const [name, setName] = useState('');
  const [origin, setOrigin] = useState('');
  const [files, setFiles] = useState<Chosen[]>([]);
  const open = useBringBom();
  const navigate = useNavigate();
  return (
    <Dialog open title="Bring in a BOM" onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (files.length > 0)
            open.mutate({ name, origin, files }, { onSuccess: (b) => void navigate(`/boms/${encodeURIComponent(b.name)}`) });
        }}
      >
        <FilesField
          chosen={files}
          onChange={(c) => {
            setFiles(c);
            if (!name) setName(boardIn(c.map((x) => x.file.name)));
          }}
        />
        <Field label="Board and revision" required maxLength={100} value={name} onChange={(e) => setName(e.target.value)} />
        <OriginField value={origin} onChange={setOrigin} />
        <Trouble error={open.error} />
        <Button look="act" type="submit" disabled={open.isPending}>
          {open.isPending ? 'Reading…' : 'Reconcile'}
        </Button>
      </form>
    </Dialog>
  );
}
