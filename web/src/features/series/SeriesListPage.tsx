import { useState } from 'react';
import { useNavigate } from 'react-router';
import { Asked } from '../../ui/asked';
import { Button, Dialog, Empty, Field, PageHead, Trouble } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import type { Schemas } from '../../api/client';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { useAccept, useMakeSeries, useProposals, useSeriesList, type Proposal } from './queries';

type Row = Schemas['SeriesRow'];

const columns: Column<Row>[] = [
  { key: 'maker', head: 'Manufacturer', width: 170, cell: (s) => s.manufacturer },
  { key: 'name', head: 'Series', width: 170, grow: true, cell: (s) => <span className="font-semibold">{s.name}</span> },
  { key: 'members', head: 'Members', width: 90, align: 'right', cell: (s) => s.members.toLocaleString('en') },
  { key: 'sheets', head: 'Datasheets', width: 220, grow: true, cell: (s) => s.datasheets.map((d) => d.name).join(', ') },
];

/** Manufacturers' series, and those that parts look as though they were of. */
export function SeriesListPage() {
  const list = useSeriesList();
  const navigate = useNavigate();
  const may = useMay();
  const [making, setMaking] = useState(false);
  return (
    <>
      <PageHead title="Series" sub="One manufacturer’s parts under one datasheet: they share it, its review and what is said about it.">
        {may('part.edit') && (
          <Button look="act" onClick={() => setMaking(true)}>
            Make a series…
          </Button>
        )}
      </PageHead>
      <div className="grid min-h-0 flex-1 grid-cols-1 lg:grid-cols-[minmax(0,1fr)_26rem]">
        <div className="flex min-h-0 flex-col">
          <Asked of={list}>
            {(l) =>
              l.items.length === 0 ? (
                <Empty title="No series yet">
                  <p>Take over what is proposed beside this, or make one of part numbers.</p>
                </Empty>
              ) : (
                <DataTable
                  label="Series"
                  rows={l.items}
                  columns={columns}
                  rowKey={(s) => s.id}
                  onOpen={(s) => void navigate(`/series/${s.id}`)}
                />
              )
            }
          </Asked>
        </div>
        <Proposals />
      </div>
      {making && <MakeDialog onClose={() => setMaking(false)} />}
    </>
  );
}

function Proposals() {
  const proposals = useProposals();
  const accept = useAccept();
  const say = useSay();
  const may = useMay();
  const take = (p: Proposal) => accept.mutate(p, { onSuccess: (s) => say(`${s.number} has ${s.said.members?.length ?? 0} members.`) });
  return (
    <aside aria-label="Proposed series" className="min-h-0 overflow-auto border-l border-line bg-ground p-2">
      <h2 className="mb-1 text-xs font-semibold text-soft">Parts that look as though they were of one series</h2>
      <Trouble error={proposals.error ?? accept.error} />
      {proposals.isPending && <p className="text-sm">Looking through the library…</p>}
      {proposals.data?.items.length === 0 && <p className="text-sm">Nothing is proposed.</p>}
      <ul className="space-y-1.5">
        {proposals.data?.items.map((p) => (
          <li key={`${p.manufacturer} ${p.name} ${p.members?.[0] ?? ''}`} className="rounded border border-line bg-sheet p-2 text-sm">
            <p className="flex items-baseline justify-between gap-2">
              <span>
                {p.manufacturer} <strong>{p.name}</strong>
              </span>
              {may('part.edit') && (
                <Button aria-label={`Take over ${p.manufacturer} ${p.name}`} disabled={accept.isPending} onClick={() => take(p)}>
                  {p.into ? 'Add to it' : 'Make it'}
                </Button>
              )}
            </p>
            <p className="text-xs text-soft">{p.into ? `${p.why}; the series is there` : p.why}</p>
            <p className="truncate text-xs" title={p.members?.join(', ')}>
              {p.members?.join(', ')}
            </p>
          </li>
        ))}
      </ul>
      {(proposals.data?.page.total ?? 0) > 200 && <p className="mt-1 text-xs text-soft">The largest 200 are shown.</p>}
    </aside>
  );
}

/** Part numbers, one a line or parted by commas. */
export const numbersOf = (text: string) => text.split(/[\n,;]+/).map((m) => m.trim()).filter(Boolean); // prettier-ignore

function MakeDialog({ onClose }: { onClose: () => void }) {
  const make = useMakeSeries();
  const navigate = useNavigate();
  const [maker, setMaker] = useState('');
  const [name, setName] = useState('');
  const [members, setMembers] = useState('');
  return (
    <Dialog open title="Make a series" onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          make.mutate(
            { manufacturer: maker, name, members: numbersOf(members), datasheets: [] },
            { onSuccess: (s) => void navigate(`/series/${s.id}`) },
          );
        }}
      >
        <Field label="Manufacturer" required maxLength={100} value={maker} onChange={(e) => setMaker(e.target.value)} />
        <Field label="Name" required maxLength={80} placeholder="TW-0805" value={name} onChange={(e) => setName(e.target.value)} />
        <Members value={members} onChange={setMembers} />
        <Trouble error={make.error} />
        <Button look="act" type="submit" disabled={make.isPending}>
          Make it
        </Button>
      </form>
    </Dialog>
  );
}

export function Members({ value, onChange }: { value: string; onChange: (text: string) => void }) {
  return (
    <label className="block text-sm">
      <span className="mb-0.5 block text-xs font-semibold text-soft">Part numbers, one a line</span>
      <textarea
        rows={6}
        className="w-full rounded border border-line bg-sheet px-2 py-1 font-mono text-sm"
        value={value}
        onChange={(e) => onChange(e.target.value)}
      />
    </label>
  );
}
