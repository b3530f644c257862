import { useState } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import { Stale } from '../../ui/asked';
import { Button, Chip, Empty, Field, Menu, PageHead, Trouble } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { useMay } from '../people';
import { BuyingDialog } from './BuyingDialog';
import { BoardCost, Dearest, Shares } from './CostCharts';
import { Ready } from './Ready';
import { useBom, useSheetForms, useCost, type Cost } from './queries';
import { sheets } from './sheets';
import { BomTabs } from './tabs';
import { VariantPick } from './VariantPick';

interface Row {
  key: string;
  part: string;
  what: string;
  where: string;
  takes: number;
  supplier: string;
  number: string;
  buy: string;
  over: string;
  each: string;
  total: string;
  house: string;
  note: string;
  bad: boolean;
}

/** What is bought and what cannot be, a row each: what has no price stands first, as it is what somebody has to see to. */
function rowsOf(c: Cost): Row[] {
  const n = (x: number) => x.toLocaleString('en');
  const unbought = c.unbought.map((u, i) => ({
    key: `u${String(i)}`, part: u.number || '—', what: u.description, where: u.designators.join(' '), takes: u.takes, supplier: '', number: '', buy: '', over: '', each: '', total: '', house: '', note: u.why, bad: true,
  })); // prettier-ignore
  const bought = c.bought.map((b) => ({
    key: b.part, part: b.number, what: b.description, where: b.designators.join(' '), takes: b.takes, supplier: b.supplier, number: b.supplierNumber, buy: n(b.pieces), over: b.over ? n(b.over) : '', each: b.each, total: b.total,
    house: b.converted ?? (b.rate ? '' : b.total),
    note: [b.short ? `short: it has ${n(b.stock ?? 0)}${b.leadDays === undefined ? '' : `, more in ${b.leadDays} days`}` : '', b.alternate ? `alternate ${b.mpn}` : '', b.spare ? `${n(b.spare)} spare` : '', b.rate && !b.converted ? b.rate : ''].filter(Boolean).join('; '),
    bad: b.short === true || (!!b.rate && !b.converted),
  })); // prettier-ignore
  return [...unbought, ...bought];
}

const columns: Column<Row>[] = [
  { key: 'part', head: 'Part', width: 102, cell: (r) => r.part },
  { key: 'what', head: 'Description', width: 130, grow: true, cell: (r) => <span title={r.what}>{r.what}</span> },
  { key: 'where', head: 'Where', width: 98, cell: (r) => <span title={r.where}>{r.where}</span> },
  { key: 'takes', head: 'Takes', width: 60, align: 'right', cell: (r) => r.takes.toLocaleString('en') },
  { key: 'note', head: 'Note', width: 110, grow: true, cell: (r) => <span title={r.note} className={r.bad ? 'text-rust' : ''}>{r.bad ? `▲ ${r.note}` : r.note}</span> },
  { key: 'supplier', head: 'Supplier', width: 112, cell: (r) => <span title={r.supplier}>{r.supplier}</span> },
  { key: 'number', head: 'Number', width: 88, cell: (r) => r.number },
  { key: 'buy', head: 'Buy', width: 50, align: 'right', cell: (r) => r.buy },
  { key: 'over', head: 'Over', width: 52, align: 'right', cell: (r) => r.over },
  { key: 'each', head: 'Each', width: 84, align: 'right', cell: (r) => r.each },
  { key: 'total', head: 'Total', width: 84, align: 'right', cell: (r) => r.total },
  { key: 'house', head: 'In sum', width: 78, align: 'right', cell: (r) => r.house },
]; // prettier-ignore

/** What a build comes to: what is bought where, what has no price, and what it lacks. */
export function CostPage() {
  const { key = '' } = useParams();
  const [params, setParams] = useSearchParams();
  const boards = Number(params.get('boards') ?? 0);
  const bom = useBom(key);
  const own = useSheetForms();
  const variant = params.get('variant') ?? '';
  const known = bom.data !== undefined && (bom.data.variants.length === 0 || variant !== '' || !!bom.data.variant);
  const cost = useCost(key, boards, 0, variant, known);
  const [typed, setTyped] = useState<string>();
  const [rules, setRules] = useState(false);
  const may = useMay();
  const go = useNavigate();
  const ask = (n: number) =>
    setParams((p) => {
      p.set('boards', String(n));
      return p;
    });
  if (bom.error && !bom.data) return <div className="p-4"><Trouble error={bom.error} /></div>; // prettier-ignore
  const b = bom.data;
  if (!b) return <Empty title="One moment…" />;
  const c = cost.data;
  const wanted = Number(typed ?? c?.boards ?? 0);
  const wrong = typed !== undefined && (!Number.isInteger(wanted) || wanted < 1 || wanted > 1_000_000);
  const missing = c ? c.unbought.length + c.noRate : 0;
  return (
    <>
      <Stale of={cost} />
      <PageHead
        title={b.name}
        sub={
          c
            ? `${c.boards.toLocaleString('en')} ${c.boards === 1 ? 'board' : 'boards'}, ${c.variant ? `variant ${c.variant}, ` : ''}by what suppliers said until ${c.day}`
            : 'Cost'
        }
      >
        {c && <Menu label="Order list" items={sheets(b.id, { boards: c.boards, variant: c.variant }, own.data?.sheets, ['purchase'])} />}
        <Button onClick={() => setRules(true)}>How it is bought{may('bom.edit') ? '…' : ''}</Button>
      </PageHead>
      <BomTabs name={b.name} />
      {b.variants.length > 0 && (
        <div className="px-4 pt-2">
          <VariantPick variants={b.variants} all={b.variant ? `as it is built: ${b.variant}` : 'nobody said which is built'} />
        </div>
      )}
      <Trouble error={cost.error} />
      {known && !c && !cost.error && <Empty title="One moment…" />}
      {!known && (
        <Empty title="Choose a variant">
          The board is built in variants, and nobody said which. <em>Built as</em> on the page of its lines says it for good.
        </Empty>
      )}
      {known && c && (
        <div className="min-h-0 flex-1 overflow-auto">
          <div className="flex flex-wrap items-end gap-x-6 gap-y-2 border-b border-line px-4 py-2">
            <form
              className="flex items-end gap-2"
              onSubmit={(e) => {
                e.preventDefault();
                if (wrong || !wanted) return;
                ask(wanted);
                setTyped(undefined);
              }}
            >
              <div className="w-28">
                <Field
                  label="Boards"
                  inputMode="numeric"
                  value={typed ?? String(c.boards)}
                  error={wrong ? 'From 1 to 1,000,000' : undefined}
                  onChange={(e) => setTyped(e.target.value.trim())}
                />
              </div>
              <Button look="act" type="submit" disabled={wrong}>
                Work out
              </Button>
            </form>
            <p className="text-sm" role="status">
              <span className="block text-2xl font-semibold tabular-nums">{c.sum || 'No sum'}</span>
              {c.board && `${c.board} a board, `}
              from {c.suppliers.length === 1 ? '1 supplier' : `${c.suppliers.length} suppliers`}
              {c.suppliers.length > 0 && `: ${c.suppliers.join(', ')}`}
              {!c.exact && '. There are too many to try all together: fewer might do'}
            </p>
            <p className="flex flex-wrap gap-2 pb-1">
              {missing > 0 && <Chip tone="bad">{`${missing} not in the sum`}</Chip>}
              {c.short > 0 && (
                <Chip tone="open">
                  {`${c.short} short: ${c.leadDays === undefined ? 'nobody says when all of it comes' : `the last comes in ${c.leadDays} days`}`}
                </Chip>
              )}
              {missing === 0 && c.short === 0 && <Chip tone="good">all of it can be bought now</Chip>}
            </p>
          </div>
          <div className="grid grid-cols-1 items-start gap-6 px-4 py-3 lg:grid-cols-3">
            <div className="space-y-3">
              <Ready cost={c} />
              <Shares cost={c} />
            </div>
            <BoardCost cost={c} onBoards={ask} />
            <Dearest cost={c} onPart={(n) => void go(`/parts/${encodeURIComponent(n)}`)} />
          </div>
          <div className="h-[28rem] border-t border-line">
            <DataTable
              label="What is bought"
              rows={rowsOf(c)}
              columns={columns}
              rowKey={(r) => r.key}
              onOpen={(r) => r.part !== '—' && void go(`/parts/${encodeURIComponent(r.part)}`)}
              empty={<Empty title="Nothing is fitted on this board" />}
            />
          </div>
        </div>
      )}
      {rules && <BuyingDialog bom={b} at={key} mayEdit={may('bom.edit')} onClose={() => setRules(false)} />}
    </>
  );
}
