import { useState } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import { Stale } from '../../ui/asked';
import { Button, Chip, Empty, LifeState, Menu, PageHead, Trouble } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { useMay } from '../people';
import { useBomRevision, useSheetForms, type Pinned } from './queries';
import { BuiltDialog, ProofDialog } from './BuiltDialog';
import { sheets } from './sheets';
import { BomTabs } from './tabs';

type Row = Pinned & { at: number; since: string };

export const quantityOf = (l: Pinned) => (l.notFitted ? 'not fitted' : (l.amount ?? String(l.quantity)));

const variantColumn: Column<Row> = { key: 'in', head: 'Variants', width: 90, cell: (l) => l.in?.join(', ') ?? 'all' };

const columns: Column<Row>[] = [
  { key: 'designators', head: 'Designators', width: 160, cell: (l) => <span title={l.designators.join(' ')}>{l.designators.join(' ')}</span> },
  { key: 'quantity', head: 'Qty', width: 70, align: 'right', cell: quantityOf },
  { key: 'part', head: 'Part', width: 100, cell: (l) => l.part?.number ?? l.board?.name ?? '' },
  { key: 'revision', head: 'Rev', width: 45, align: 'right', cell: (l) => (l.part ? l.part.revision || 'draft' : (l.board?.label ?? '')) },
  { key: 'description', head: 'Description', width: 220, grow: true, cell: (l) => l.part?.description ?? [l.value, l.package, l.description, l.board ? '(another BOM)' : l.assembly ? '(sub-assembly)' : ''].filter(Boolean).join(' ') },
  { key: 'mpn', head: 'First source', width: 190, cell: (l) => (l.part ? [l.part.manufacturer, l.part.mpn].filter(Boolean).join(' ') : [l.manufacturer, l.mpn].filter(Boolean).join(' ')) },
  { key: 'by', head: 'Chosen by', width: 110, cell: (l) => <span title={l.reason}>{l.by ?? ''}</span> },
  { key: 'since', head: 'Since it was frozen', width: 200, grow: true, cell: (l) => <span title={l.since} className={l.since ? 'text-rust' : ''}>{l.since && `▲ ${l.since}`}</span> },
]; // prettier-ignore

/** A revision of a BOM: what it was frozen as, and what became otherwise in the library since. */
export function RevisionPage() {
  const { key = '', revision = '' } = useParams();
  const asked = useBomRevision(key, Number(revision));
  const [params, setParams] = useSearchParams();
  const go = useNavigate();
  const may = useMay();
  const own = useSheetForms();
  const [noting, setNoting] = useState(false);
  const [proof, setProof] = useState<string>();
  const f = asked.data;
  if (asked.error && !f) return <div className="p-4"><Trouble error={asked.error} /></div>; // prettier-ignore
  if (!f) return <Empty title="One moment…" />;
  const behind = new Map(f.behind.map((d) => [d.row, d.says]));
  const market = new Map((f.now?.changes ?? []).map((c) => [c.part, c.says]));
  const since = (l: Pinned) =>
    [...(l.of ? [] : (behind.get(l.row) ?? [])), ...((!l.notFitted && l.part && market.get(l.part.id)) || [])].join('; ');
  const only = params.get('behind') !== null;
  const rows = f.lines.map((l, at) => ({ ...l, at, since: since(l) })).filter((l) => !only || l.since);
  const unpinned = f.lines.filter((l) => !l.part && !l.notFitted && !l.noPart && !l.assembly).length;
  return (
    <>
      <Stale of={asked} />
      <PageHead title={`${f.name} revision ${f.label}`} sub={`${f.note} · ${f.by}, ${new Date(f.at).toLocaleString()} · ${f.fileName}`}>
        <Menu label="Export" items={sheets(f.id, { revision: f.revision }, own.data?.sheets)} />
        <Button onClick={() => void go(`/boms/${encodeURIComponent(f.id)}/compare?revision=${String(f.revision)}`)}>
          Compare with what it is now
        </Button>
        {may('bom.freeze') && <Button onClick={() => setNoting(true)}>It was built…</Button>}
      </PageHead>
      <BomTabs name={f.name} />
      <div className="flex flex-wrap items-center gap-3 border-b border-line px-4 py-2 text-sm">
        <Button
          look="quiet"
          aria-pressed={only}
          onClick={() =>
            setParams((p) => {
              if (only) p.delete('behind');
              else p.set('behind', '');
              return p;
            })
          }
        >
          {only ? 'Show all lines' : 'Only what is behind'}
        </Button>
        <LifeState of={f.state} more={f.why} />
        {f.behind.length > 0 ? (
          <Chip tone="open">{f.behind.length === 1 ? '1 line is behind' : `${f.behind.length} lines are behind`}</Chip>
        ) : (
          <Chip tone="good">the library is as it was</Chip>
        )}
        {unpinned > 0 && <Chip tone="bad">{`${unpinned} without a pin: ${f.anyway ?? ''}`}</Chip>}
        {f.cost && (
          <span>
            {f.cost.boards.toLocaleString('en')} boards came to {f.cost.sum || 'no sum'} on {f.cost.day}
            {f.cost.unbought.length > 0 && `, without ${String(f.cost.unbought.length)} that had no price`}.
          </span>
        )}
        {f.now && (
          <span>
            {f.now.changes.length === 0
              ? 'They would be bought in the same way now.'
              : `On ${f.now.day} they would come to ${f.now.sum || 'no sum'}: ${f.now.changes.length === 1 ? '1 part' : `${String(f.now.changes.length)} parts`} bought otherwise.`}
          </span>
        )}
      </div>
      {f.builds.length > 0 && (
        <ul className="flex flex-wrap gap-x-6 gap-y-1 border-b border-line px-4 py-2 text-sm" aria-label="Built boards">
          {f.builds.map((b) => (
            <li key={b.id}>
              {b.boards === 1 ? '1 board' : `${b.boards.toLocaleString('en')} boards`} built{b.variant && ` as ${b.variant}`}: {b.which}{' '}
              <span className="text-soft">
                ({b.by}, {new Date(b.at).toLocaleDateString()})
              </span>{' '}
              <Button look="quiet" onClick={() => setProof(b.id)}>
                {b.proved === 0
                  ? 'What it proves…'
                  : b.proved === 1
                    ? 'Proves 1 exact revision…'
                    : `Proves ${String(b.proved)} exact revisions…`}
              </Button>
            </li>
          ))}
        </ul>
      )}
      <div className="min-h-0 flex-1">
        <DataTable
          label="Lines of the revision"
          rows={rows}
          columns={f.variants ? columns.toSpliced(1, 0, variantColumn) : columns}
          rowKey={(l) => String(l.at)}
          onOpen={(l) => l.part && void go(`/parts/${encodeURIComponent(l.part.number)}`)}
          empty={<Empty title={only ? 'Nothing is behind' : 'It has no lines'} />}
        />
      </div>
      {noting && (
        <BuiltDialog
          of={f}
          at={key}
          onClose={() => setNoting(false)}
          onProof={(build) => {
            setNoting(false);
            setProof(build);
          }}
        />
      )}
      {proof && <ProofDialog at={key} revision={f.revision} build={proof} onClose={() => setProof(undefined)} />}
    </>
  );
}
