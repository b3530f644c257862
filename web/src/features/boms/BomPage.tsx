import { useState } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import type { Schemas } from '../../api/client';
import { Stale } from '../../ui/asked';
import { pill, useFilter } from '../../ui/filters';
import { useKeys } from '../../ui/keys';
import { Button, Empty, Menu, PageHead, State, Trouble } from '../../ui/kit';
import { Looked } from '../../ui/looked';
import { DataTable, type Column } from '../../ui/table';
import { useSay } from '../../ui/toast';
import { WatchButton } from '../notices';
import { useMay } from '../people';
import { useWantMissing } from '../wants/queries';
import { BuildBar } from './BuildBar';
import { CauseActions, LineFindings } from './Findings';
import { FileDialog, OriginDialog, RemoveDialog, RenameDialog } from './BomDialogs';
import { FreezeDialog } from './FreezeDialog';
import { sheets } from './sheets';
import { BomTabs } from './tabs';
import { UniteDialog } from './UniteDialog';
import { VariantPick } from './VariantPick';
import { VerdictBar } from './VerdictBar';
import { ColumnsDialog } from './ColumnsDialog';
import { LineDialog } from './LineDialog';
import { RecordDrawings } from './RecordDrawings';
import { useBom, useChoose, useSayColumns, useSayEnding, useSheetForms, taken, unsettled, type BOM, type Line } from './queries';

/** Verdicts that many boards have none of: they are offered where there are some. */
const rare = ['no library part', 'sub-assembly', 'another BOM'];
const verdicts = ['linked', 'proposed', 'several', 'not in the library', 'no library part', 'sub-assembly', 'another BOM', 'not fitted'];
const serious = (l: Line) => l.findings.filter((f) => f.severity !== 'note' && !f.waived);

const variantColumn: Column<Line> = { key: 'in', head: 'Variants', width: 84, cell: (l) => l.in?.join(', ') ?? 'all' };

const columns: Column<Line>[] = [
  { key: 'row', head: 'Row', width: 50, align: 'right', cell: (l) => l.row },
  { key: 'designators', head: 'Designators', width: 115, cell: (l) => <span title={l.designators.join(' ')} style={{ paddingLeft: `${String(0.75 * Math.max(0, (l.level ?? 0) - 1))}rem` }}>{l.written}</span> },
  { key: 'quantity', head: 'Qty', width: 62, align: 'right', cell: (l) => `${l.amount ?? (l.quantity < 0 ? '' : String(l.quantity))}${l.times ? ` × ${l.times.toLocaleString('en')}` : ''}` },
  { key: 'value', head: 'Value', width: 95, cell: (l) => l.value },
  { key: 'package', head: 'Package', width: 75, cell: (l) => l.package },
  { key: 'written', head: 'Number or MPN', width: 120, cell: (l) => l.number || l.mpn },
  { key: 'verdict', head: 'Verdict', width: 175, cell: (l) => <State of={l.verdict} more={l.chosen ? '(chosen)' : ''} /> },
  { key: 'part', head: 'Record', width: 100, cell: (l) => (l.board ? taken(l.board) : (l.part?.number ?? (l.options.length ? `${l.options.length} parts` : ''))) },
  { key: 'description', head: 'Description', width: 140, grow: true, cell: (l) => l.part?.description ?? (l.options.map((o) => o.number).join(', ') || l.description) },
  { key: 'findings', head: 'Findings', width: 150, grow: true, cell: (l) => { const t = serious(l).map((f) => f.what).join('; '); return <span title={t} className={t ? 'text-rust' : ''}>{t && `▲ ${t}`}</span>; } },
]; // prettier-ignore

/** The row of the next line that nobody answered. */
function nextOpen(lines: Line[], row = 0) {
  const ahead = lines.filter((l) => unsettled(l) && l.row !== row);
  return (ahead.find((l) => l.row > row) ?? ahead[0])?.row;
}

/** The lines of a verdict, or with findings, and of a cause. */
function shownOf(lines: Line[], verdict: string, cause: string) {
  return lines.filter(
    (l) =>
      (!verdict || l.verdict === verdict || (verdict === 'findings' && serious(l).length > 0)) &&
      (!cause || l.findings.some((f) => f.cause === cause)),
  );
}

export function BomPage() {
  const { key = '' } = useParams();
  const [params] = useSearchParams();
  const go = useNavigate();
  const variant = params.get('variant') ?? '';
  const bom = useBom(key, variant);
  const choose = useChoose(key);
  const own = useSheetForms();
  const [verdict, setVerdict] = useFilter('verdict');
  const [cause, setCause] = useFilter('cause');
  const [row, setRow] = useState<number>();
  const [columnsOpen, setColumnsOpen] = useState(false);
  const [dialog, setDialog] = useState<'name' | 'file' | 'freeze' | 'origin' | 'remove' | 'unite'>();
  const sayEnding = useSayEnding();
  const wantMissing = useWantMissing(key);
  const sayColumns = useSayColumns(key);
  const may = useMay();
  const say = useSay();
  const shown = shownOf(bom.data?.lines ?? [], verdict, cause);
  const first = nextOpen(shown);
  useKeys({ n: first === undefined ? undefined : () => setRow(first) }, 'page');
  if (bom.error && !bom.data) return <div className="p-4"><Trouble error={bom.error} /></div>; // prettier-ignore
  const b = bom.data;
  if (!b) return <Empty title="One moment…" />;
  const lines = shown;
  const causes = b.causes.filter((c) => !['missing', 'several', 'proposed'].includes(c.cause)); // those are verdicts
  const proposed = b.lines.filter((l) => l.verdict === 'proposed' && l.part);
  const clean = proposed.filter((l) => !l.contradicted);
  const accept = (body: Schemas['BOMChoices'], done: string, then?: (after: BOM) => void) =>
    choose.mutate(
      { id: b.id, version: b.version, body },
      {
        onSuccess: (after) => {
          say(done);
          then?.(after);
        },
      },
    );
  const pick = (list: Line[]) => ({ choose: list.flatMap((l) => (l.part ? [{ row: l.row, part: l.part.id }] : [])) });
  const open = b.lines.find((l) => l.row === row);
  const following = nextOpen(lines, row);
  /** To the next open line of those that are shown. */
  const onward = (after: BOM) =>
    setRow(
      nextOpen(
        after.lines.filter((l) => lines.some((o) => o.row === l.row)),
        row,
      ),
    );

  return (
    <>
      <Stale of={bom} />
      <Looked kind="bom" id={b.id} number={b.name} what={`${b.lines.length} lines`} />
      <PageHead title={b.name} sub={`${b.fileName} · ${b.lines.length} lines · ${b.findings} findings`}>
        <WatchButton of="bom" about={b.id} name={b.name} />
        {may('bom.edit') && clean.length > 0 && (
          <Button
            look="act"
            disabled={choose.isPending}
            onClick={() => accept(pick(clean), `${clean.length} proposals accepted; each can be taken back on its line.`)}
          >
            Accept {clean.length} proposals that nothing contradicts
          </Button>
        )}
        {may('want.make') && (b.counts['not in the library'] ?? 0) > 0 && (
          <Button
            disabled={wantMissing.isPending}
            onClick={() =>
              wantMissing.mutate(undefined, {
                onSuccess: (m) =>
                  say(m.wants === 1 ? `${m.numbers[0]} is wanted.` : `${m.wants} parts are wanted: ${m.numbers.join(', ')}.`),
              })
            }
          >
            Want the {b.counts['not in the library']} missing
          </Button>
        )}
        {may('bom.freeze') && <Button onClick={() => setDialog('freeze')}>Freeze…</Button>}
        <Button onClick={() => setColumnsOpen(true)}>Columns{b.confirmed ? '' : '…'}</Button>
        <Menu label="Export" items={sheets(b.id, { variant }, own.data?.sheets)} />
        {may('bom.edit') && (
          <Menu
            label="More"
            items={[
              { text: 'Another file of this board…', onSelect: () => setDialog('file') },
              { text: 'Where its files come from…', onSelect: () => setDialog('origin') },
              { text: 'Rename…', onSelect: () => setDialog('name') },
              { text: 'Remove…', onSelect: () => setDialog('remove') },
            ]}
          />
        )}
      </PageHead>
      {b.problem && (
        <div className="p-3">
          <Trouble error={new Error(b.problem)} />
        </div>
      )}
      <Trouble error={choose.error ?? (wantMissing.variables === undefined ? wantMissing.error : null)} />
      <BomTabs name={b.name} />
      <BuildBar bom={b} at={key}>
        <VariantPick variants={b.variants} label="Lines of the variant" all="all variants" />
      </BuildBar>
      <VerdictBar bom={b} />
      {b.skipped.length > 0 && (
        <details className="px-4 pt-1 text-xs text-soft">
          <summary>
            {b.skipped.length === 1 ? '1 row of the file is no line' : `${String(b.skipped.length)} rows of the file are no lines`}
          </summary>
          <ul className="list-disc pl-5">
            {b.skipped.map((s) => (
              <li key={s.row}>
                Row {s.row}, {s.text}: {s.why}
              </li>
            ))}
          </ul>
        </details>
      )}
      <div
        className="flex flex-wrap gap-2 border-b border-line bg-ground px-4 py-2 text-sm"
        role="group"
        aria-label="Lines by verdict"
        title={first === undefined ? undefined : 'n: the first open line'}
      >
        {['', ...verdicts.filter((v) => v === verdict || !rare.includes(v) || (b.counts[v] ?? 0) > 0), 'findings'].map((v) => (
          <button key={v} type="button" aria-pressed={verdict === v} className={pill} onClick={() => setVerdict(v)}>
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
      {causes.length > 0 && (
        <div
          className="flex flex-wrap items-center gap-1.5 border-b border-line px-4 py-1.5 text-xs"
          role="group"
          aria-label="Lines by cause"
        >
          <span className="text-soft">By cause</span>
          {causes.map((c) => (
            <button
              key={c.cause}
              type="button"
              title={c.what + (c.mend ? `: ${c.mend}` : '')}
              aria-pressed={cause === c.cause}
              className="rounded border border-line bg-sheet px-1.5 py-px aria-pressed:border-b-2 aria-pressed:border-b-amber"
              onClick={() => setCause(cause === c.cause ? '' : c.cause)}
            >
              <State of={c.severity} /> {c.name.replaceAll('-', ' ')} {c.count}
              {c.waived ? ` (${String(c.waived)} accepted)` : ''}
            </button>
          ))}
          {cause === 'function-twice' && may('bom.edit') && (
            <Button look="quiet" className="ml-auto" onClick={() => setDialog('unite')}>
              Unite them…
            </Button>
          )}
          {cause && may('bom.edit') && <CauseActions key={cause} bom={b} cause={cause} />}
        </div>
      )}
      <div className="min-h-0 flex-1">
        <DataTable
          label="Lines"
          rows={lines}
          columns={b.variants.length > 0 ? columns.toSpliced(2, 0, variantColumn) : columns}
          rowKey={(l) => String(l.row)}
          onOpen={(l) => setRow(l.row)}
          empty={<Empty title="No line has this verdict" />}
        />
      </div>
      {open && (
        <LineDialog
          key={open.row}
          line={open}
          findings={<LineFindings bom={b} line={open} mayEdit={may('bom.edit')} />}
          drawings={open.part && <RecordDrawings number={open.part.number} designators={open.designators} />}
          origin={b.origin ?? ''}
          back={`/boms/${encodeURIComponent(b.name)}`}
          mayEdit={may('bom.edit')}
          mayConfirm={may('crosswalk.apply')}
          busy={choose.isPending || sayEnding.isPending || wantMissing.isPending}
          error={choose.error ?? sayEnding.error ?? (wantMissing.variables === open.row ? wantMissing.error : null)}
          onEnding={(e) => sayEnding.mutate(e, { onSuccess: () => say(`${e.letters} is a packing of ${e.maker}, in every BOM.`) })}
          onClose={() => setRow(undefined)}
          onChoose={(part, reason, far) =>
            accept(
              {
                choose: [
                  { row: open.row, part, reason: reason || undefined, alike: far.alike || undefined, learn: far.learn || undefined },
                ],
              },
              far.alike ? `${String(1 + (open.alike ?? 0))} lines are linked.` : `Row ${open.row} is linked.`,
              onward,
            )
          }
          onNone={(why, far) =>
            accept(
              { choose: [{ row: open.row, none: true, reason: why, alike: far.alike || undefined, learn: far.learn || undefined }] },
              far.alike
                ? `${String(1 + (open.alike ?? 0))} lines are no parts of the library.`
                : `Row ${open.row} is no part of the library.`,
              onward,
            )
          }
          onBoard={(board, which, why) =>
            accept(
              { choose: [{ row: open.row, board, variant: which || undefined, reason: why || undefined }] },
              `Row ${open.row} is another BOM.`,
              onward,
            )
          }
          onWant={
            may('want.make')
              ? () =>
                  wantMissing.mutate(open.row, {
                    onSuccess: (m) => {
                      say(`${m.numbers[0]} is wanted for row ${String(open.row)}.`);
                      if (following !== undefined) setRow(following);
                    },
                  })
              : undefined
          }
          onNext={following === undefined ? undefined : () => setRow(following)}
          onWithdraw={() => accept({ withdraw: [open.row] }, `The choice for row ${open.row} is taken back.`)}
        />
      )}
      {dialog === 'freeze' && <FreezeDialog bom={b} at={key} onClose={() => setDialog(undefined)} />}
      {dialog === 'unite' && <UniteDialog bom={b} at={key} variant={variant} onClose={() => setDialog(undefined)} />}
      {dialog === 'file' && <FileDialog bom={b} at={key} onClose={() => setDialog(undefined)} />}
      {dialog === 'origin' && <OriginDialog bom={b} onClose={() => setDialog(undefined)} />}
      {dialog === 'remove' && <RemoveDialog bom={b} onClose={() => setDialog(undefined)} onGone={() => void go('/boms')} />}
      {dialog === 'name' && <RenameDialog bom={b} onClose={() => setDialog(undefined)} />}
      {columnsOpen && (
        <ColumnsDialog
          bom={b}
          busy={sayColumns.isPending}
          error={sayColumns.error}
          onClose={() => setColumnsOpen(false)}
          onSay={(list) =>
            sayColumns.mutate(
              { id: b.id, columns: list },
              {
                onSuccess: () => {
                  setColumnsOpen(false);
                  say('The columns are confirmed for all files with these headings.');
                },
              },
            )
          }
        />
      )}
    </>
  );
}
