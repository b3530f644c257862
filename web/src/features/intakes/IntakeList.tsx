import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { Button, Dialog, Empty, Field, PageHead, State, Trouble } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { useMay } from '../people';
import { useIntakes, useOpenIntake, useSuppliers, type Intake } from './queries';

const columns: Column<Intake>[] = [
  { key: 'number', head: 'Intake', width: 110, cell: (i) => <span className="font-semibold">{i.number}</span> },
  { key: 'supplier', head: 'Supplier', width: 220, cell: (i) => i.supplier },
  { key: 'file', head: 'File', width: 220, grow: true, cell: (i) => i.fileName },
  { key: 'state', head: 'State', width: 120, cell: (i) => <State of={i.state} /> },
  { key: 'made', head: 'Parts made', width: 100, align: 'right', cell: (i) => i.counts['new'] ?? '' },
  { key: 'updated', head: 'Changed', width: 170, cell: (i) => new Date(i.updated).toLocaleString() },
];

export function IntakeList() {
  const intakes = useIntakes();
  const navigate = useNavigate();
  const may = useMay();
  const [opening, setOpening] = useState(false);
  return (
    <>
      <PageHead title="Intakes" sub="Each brings in one file: nothing reaches the library before it is taken in as a whole.">
        <Link className="text-sm underline" to="/decisions">
          Decisions about rows
        </Link>
        {may('intake.edit') && (
          <Button look="act" onClick={() => setOpening(true)}>
            Bring in a file…
          </Button>
        )}
      </PageHead>
      <Trouble error={intakes.error} />
      <div className="min-h-0 flex-1">
        <DataTable
          label="Intakes"
          rows={intakes.data?.items ?? []}
          columns={columns}
          rowKey={(i) => i.id}
          onOpen={(i) => void navigate(`/intakes/${i.id}`)}
          empty={intakes.isSuccess && <Empty title="No intake yet">Bring in a supplier’s export: CSV in any spelling, or XLSX.</Empty>}
        />
      </div>
      {opening && <OpenDialog onClose={() => setOpening(false)} />}
    </>
  );
}

function OpenDialog({ onClose }: { onClose: () => void }) {
  const suppliers = useSuppliers();
  const [supplier, setSupplier] = useState('');
  const [file, setFile] = useState<File>();
  const open = useOpenIntake();
  const navigate = useNavigate();
  return (
    <Dialog open title="Bring in a file" onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (file) open.mutate({ supplier, file }, { onSuccess: (i) => void navigate(`/intakes/${i.id}`) });
        }}
      >
        <Field
          label="Supplier"
          list="suppliers"
          required
          hint="Its crosswalk is used; one that has none yet gets suggestions"
          value={supplier}
          onChange={(e) => setSupplier(e.target.value)}
        />
        <datalist id="suppliers">
          {[...new Set(suppliers.data?.items.map((s) => s.supplier))].map((s) => (
            <option key={s} value={s} />
          ))}
        </datalist>
        <Field
          label="File"
          type="file"
          required
          accept=".csv,.tsv,.txt,.xlsx,.ods,.json,.zip"
          onChange={(e) => setFile(e.target.files?.[0])}
        />
        <Trouble error={open.error} />
        <Button look="act" type="submit" disabled={open.isPending}>
          {open.isPending ? 'Reading…' : 'Open the intake'}
        </Button>
      </form>
    </Dialog>
  );
}
