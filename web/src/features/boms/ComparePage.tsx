import { useParams, useSearchParams } from 'react-router';
import type { Schemas } from '../../api/client';
import { Stale } from '../../ui/asked';
import { pill, useFilter } from '../../ui/filters';
import { Chip, Empty, PageHead, Trouble, type Tone } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { quantityOf } from './RevisionPage';
import { useBom, useComparison, type Comparison, type Pinned } from './queries';
import { BomTabs } from './tabs';
import { VariantPick } from './VariantPick';

type Change = Comparison['changes'][number];

const words: Record<string, { text: string; tone: Tone }> = {
  added: { text: 'added', tone: 'good' },
  removed: { text: 'removed', tone: 'bad' },
  part: { text: 'another part', tone: 'bad' },
  linked: { text: 'linked on one side', tone: 'open' },
  revision: { text: 'another revision', tone: 'open' },
  text: { text: 'other words', tone: 'calm' },
  fitted: { text: 'fitted', tone: 'open' },
  quantity: { text: 'quantity', tone: 'open' },
  variant: { text: 'other variants', tone: 'open' },
};

/** What a line is of, in words. */
function inWords(l?: Pinned) {
  if (!l) return '';
  const what = l.part
    ? `${l.part.number} rev ${String(l.part.revision)} ${l.part.description}`
    : l.board
      ? `${l.board.name}, revision ${l.board.label}`
      : [l.value, l.package, l.mpn, l.description].filter(Boolean).join(' ');
  const count = l.notFitted || l.amount || l.quantity !== l.designators.length ? `, ${quantityOf(l)}` : '';
  return what + count + (l.in ? `, in ${l.in.join(', ')}` : '');
}

const columns: Column<Change>[] = [
  { key: 'what', head: 'Change', width: 210, cell: (c) => <span className="flex gap-1">{c.what.map((w) => <Chip key={w} tone={words[w]?.tone}>{words[w]?.text ?? w}</Chip>)}</span> },
  { key: 'designators', head: 'Designators', width: 180, cell: (c) => <span title={c.designators.join(' ')}>{c.designators.join(' ')}</span> },
  { key: 'before', head: 'Before', width: 300, grow: true, cell: (c) => <span title={inWords(c.before)}>{inWords(c.before)}</span> },
  { key: 'after', head: 'After', width: 300, grow: true, cell: (c) => <span title={inWords(c.after)}>{inWords(c.after)}</span> },
]; // prettier-ignore

/** What a board comes to, and what is not in it. */
const costOf = (b: Schemas['BoardCost']) => (b.board || 'no sum') + (b.missing ? ` without ${String(b.missing)} that have no price` : '');

/** Two BOMs, or two revisions of one, beside each other: what differs, by designator. */
export function BomComparePage() {
  const { key = '' } = useParams();
  const [params] = useSearchParams();
  const other = params.get('with') ?? '';
  const bom = useBom(key);
  const beside = useBom(other || key);
  const asked = useComparison(
    key,
    Number(params.get('revision') ?? 0),
    other,
    Number(params.get('to') ?? 0),
    params.get('variant') ?? '',
    params.get('with-variant') ?? '',
  );
  const [only, setOnly] = useFilter('only');
  const c = asked.data;
  if (asked.error && !c) return <div className="p-4"><Trouble error={asked.error} /></div>; // prettier-ignore
  if (!c) return <Empty title="One moment…" />;
  const counts = new Map<string, number>();
  for (const ch of c.changes) for (const w of ch.what) counts.set(w, (counts.get(w) ?? 0) + (ch.designators.length || 1));
  const rows = c.changes.filter((ch) => !only || ch.what.includes(only));
  return (
    <>
      <Stale of={asked} />
      <PageHead
        title={`${c.from} beside ${c.to}`}
        sub={`${c.same === 1 ? '1 designator is' : `${c.same} designators are`} as before · a board of ${c.boards.toLocaleString('en')}: ${costOf(c.before)}, then ${costOf(c.after)}`}
      />
      <BomTabs name={key} />
      {(bom.data?.variants.length ?? 0) + (beside.data?.variants.length ?? 0) > 0 && (
        <div className="flex gap-3 px-4 py-2">
          <VariantPick variants={bom.data?.variants ?? []} label="Variant before" all="all variants" />
          <VariantPick variants={beside.data?.variants ?? []} label="Variant after" all="all variants" at="with-variant" />
        </div>
      )}
      <div className="flex flex-wrap gap-2 border-b border-line bg-ground px-4 py-2 text-sm" role="group" aria-label="Changes by kind">
        {['', ...Object.keys(words).filter((w) => counts.has(w))].map((w) => (
          <button key={w} type="button" aria-pressed={only === w} className={pill} onClick={() => setOnly(w)}>
            {w === '' ? (
              `all ${String(c.changes.length)}`
            ) : (
              <Chip tone={words[w]?.tone}>{`${words[w]?.text ?? w} ${String(counts.get(w) ?? 0)}`}</Chip>
            )}
          </button>
        ))}
      </div>
      {c.renumbered.length > 0 && (
        <ul className="border-b border-line px-4 py-2 text-sm">
          {c.renumbered.map((r) => (
            <li key={r.part + (r.from[0] ?? '')}>
              <Chip tone="open">numbered anew?</Chip> {r.from.join(' ')} may be {r.to.join(' ')} by now: as many, of {r.part}.
            </li>
          ))}
        </ul>
      )}
      <div className="min-h-0 flex-1">
        <DataTable
          label="Changes"
          rows={rows}
          columns={columns}
          rowKey={(ch) => `${ch.what.join()} ${ch.designators.join(' ')} ${inWords(ch.before)}`}
          empty={<Empty title="Nothing differs" />}
        />
      </div>
    </>
  );
}
