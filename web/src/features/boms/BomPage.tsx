import { useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import type { Schemas } from '../../api/client';
import { Button, Dialog, Empty, Menu, PageHead, State, Trouble } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { useBom, useChoose, type Line } from './queries';

const verdicts = ['linked', 'proposed', 'several', 'not in the library', 'not fitted'];
const serious = (l: Line) => l.findings.filter((f) => f.severity !== 'note');

const columns: Column<Line>[] = [
  { key: 'row', head: 'Row', width: 50, align: 'right', cell: (l) => l.row },
  { key: 'designators', head: 'Designators', width: 130, cell: (l) => <span title={l.designators.join(' ')}>{l.written}</span> },
  { key: 'quantity', head: 'Qty', width: 45, align: 'right', cell: (l) => (l.quantity < 0 ? '' : l.quantity) },
  { key: 'value', head: 'Value', width: 95, cell: (l) => l.value },
  { key: 'package', head: 'Package', width: 75, cell: (l) => l.package },
  { key: 'written', head: 'Number or MPN', width: 130, cell: (l) => l.number || l.mpn },
  { key: 'verdict', head: 'Verdict', width: 145, cell: (l) => <State of={l.verdict} more={l.chosen ? '(chosen)' : ''} /> },
  { key: 'part', head: 'Record', width: 100, cell: (l) => l.part?.number ?? (l.options.length ? `${l.options.length} parts` : '') },
  { key: 'description', head: 'Description', width: 170, grow: true, cell: (l) => l.part?.description ?? l.options.map((o) => o.number).join(', ') },
  { key: 'findings', head: 'Findings', width: 185, grow: true, cell: (l) => { const t = serious(l).map((f) => f.what).join('; '); return <span title={t} className={t ? 'text-rust' : ''}>{t && `▲ ${t}`}</span>; } },
]; // prettier-ignore

export function BomPage() {
  const { key = '' } = useParams();
  const bom = useBom(key);
  const choose = useChoose(key);
  const [params, setParams] = useSearchParams();
  const verdict = params.get('verdict') ?? '';
  const [row, setRow] = useState<number>();
  const may = useMay();
  const say = useSay();
  if (bom.error) return <div className="p-4"><Trouble error={bom.error} /></div>; // prettier-ignore
  const b = bom.data;
  if (!b) return <Empty title="One moment…" />;
  const lines = b.lines.filter((l) => !verdict || l.verdict === verdict || (verdict === 'findings' && serious(l).length > 0));
  const proposed = b.lines.filter((l) => l.verdict === 'proposed' && l.part);
  const clean = proposed.filter((l) => serious(l).every((f) => f.cause === 'unreleased'));
  const accept = (body: Schemas['BOMChoices'], done: string) =>
    choose.mutate({ id: b.id, version: b.version, body }, { onSuccess: () => say(done) });
  const pick = (list: Line[]) => ({ choose: list.flatMap((l) => (l.part ? [{ row: l.row, part: l.part.id }] : [])) });
  const open = b.lines.find((l) => l.row === row);
  const fetchExport = (format: string) => location.assign(`/api/v1/boms/${encodeURIComponent(b.id)}/export?format=${format}`);

  return (
    <>
      <PageHead title={b.name} sub={`${b.fileName} · ${b.lines.length} lines · ${b.findings} findings`}>
        {may('bom.edit') && clean.length > 0 && (
          <Button
            look="act"
            disabled={choose.isPending}
            onClick={() => accept(pick(clean), `${clean.length} proposals accepted; each can be taken back on its line.`)}
          >
            Accept {clean.length} proposals that nothing contradicts
          </Button>
        )}
        <Menu
          label="Export"
          items={[
            { text: 'CSV for purchasing', onSelect: () => fetchExport('csv') },
            { text: 'XLSX for purchasing', onSelect: () => fetchExport('xlsx') },
          ]}
        />
      </PageHead>
      {b.problem && (
        <div className="p-3">
          <Trouble error={new Error(b.problem)} />
        </div>
      )}
      <Trouble error={choose.error} />
      <div className="flex flex-wrap gap-2 border-b border-line bg-ground px-4 py-2 text-sm" role="group" aria-label="Lines by verdict">
        {['', ...verdicts, 'findings'].map((v) => (
          <button
            key={v}
            type="button"
            aria-pressed={verdict === v}
            className="rounded border border-line bg-sheet px-2 py-0.5 aria-pressed:border-b-2 aria-pressed:border-b-amber"
            onClick={() => setParams(v ? { verdict: v } : {})}
          >
            {v === '' ? (
              `all ${b.lines.length}`
            ) : v === 'findings' ? (
              `with findings ${b.lines.filter((l) => serious(l).length > 0).length}`
            ) : (
              <State of={v} more={String(b.counts[v] ?? 0)} />
            )}
          </button>
        ))}
      </div>
      <div className="min-h-0 flex-1">
        <DataTable
          label="Lines"
          rows={lines}
          columns={columns}
          rowKey={(l) => String(l.row)}
          onOpen={(l) => setRow(l.row)}
          empty={<Empty title="No line has this verdict" />}
        />
      </div>
      {open && (
        <LineDialog
          line={open}
          mayEdit={may('bom.edit')}
          busy={choose.isPending}
          error={choose.error}
          onClose={() => setRow(undefined)}
          onChoose={(part) => accept({ choose: [{ row: open.row, part }] }, `Row ${open.row} is linked.`)}
          onWithdraw={() => accept({ withdraw: [open.row] }, `The choice for row ${open.row} is taken back.`)}
        />
      )}
    </>
  );
}

function LineDialog({
  line,
  mayEdit,
  busy,
  error,
  onClose,
  onChoose,
  onWithdraw,
}: {
  line: Line;
  mayEdit: boolean;
  busy: boolean;
  error: unknown;
  onClose: () => void;
  onChoose: (part: string) => void;
  onWithdraw: () => void;
}) {
  // prettier-ignore
  const options = line.part && line.verdict !== 'linked' ? [line.part] : line.options;
  return (
    <Dialog open wide title={`Row ${line.row}: ${line.written}`} onClose={onClose}>
      <p className="mb-2 text-sm">
        <State of={line.verdict} /> {line.evidence.join('; ')}
      </p>
      <dl className="mb-3 grid grid-cols-[9rem_1fr] gap-y-0.5 text-sm">
        {[
          ['Value', line.value],
          ['Package', line.package],
          ['Part number', line.number],
          ['Manufacturer', line.manufacturer],
          ['MPN', line.mpn],
        ].map(
          ([k, v]) =>
            v && (
              <div key={k} className="contents">
                <dt className="text-soft">{k} as written</dt>
                <dd>{v}</dd>
              </div>
            ),
        )}
      </dl>{' '}
      {/* prettier-ignore */}
      {line.findings.length > 0 && (
        <ul className="mb-3 space-y-1 text-sm">
          {line.findings.map((f, n) => (
            <li key={n}>
              <State of={f.severity} /> {f.what}
              {f.mend && <span className="text-soft">: {f.mend}</span>}
            </li>
          ))}
        </ul>
      )}
      <Trouble error={error} />
      <ul className="space-y-1.5">
        {(line.verdict === 'linked' && line.part ? [line.part] : options).map((o) => (
          <li key={o.id} className="flex flex-wrap items-center gap-3 rounded border border-line p-2 text-sm">
            <Link className="font-semibold underline" to={`/parts/${encodeURIComponent(o.number)}`}>
              {o.number}
            </Link>
            <span className="flex-1">
              {o.description} · {o.manufacturer} {o.mpn}
            </span>
            <State of={o.standing} />
            {mayEdit && line.verdict !== 'linked' && (
              <Button look="act" disabled={busy} onClick={() => onChoose(o.id)}>
                Use this part
              </Button>
            )}
          </li>
        ))}
      </ul>
      {mayEdit && line.chosen && (
        <Button className="mt-3" disabled={busy} onClick={onWithdraw}>
          Take the choice back
        </Button>
      )}
      {line.verdict === 'not in the library' && (
        <p className="text-sm">
          <Link className="underline" to="/parts/new">
            Make the part
          </Link>{' '}
          or bring in a supplier’s file that has it.
        </p>
      )}
    </Dialog>
  );
}
