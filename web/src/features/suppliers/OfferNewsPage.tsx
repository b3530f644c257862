import { useMemo, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { Schemas } from '../../api/client';
import { Stale } from '../../ui/asked';
import { Button, Chip, Empty, PageHead, Trouble } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { age, together, useNews, useSettleNews } from './queries';

type News = Schemas['OfferNews'] & { ids: string[] };

const words: Record<string, string> = {
  state: 'product state',
  price: 'price',
  stock: 'stock',
  lead: 'lead time',
  gone: 'not known any more',
  back: 'known again',
  sheet: 'datasheet',
};

/** What suppliers say otherwise than before and nobody has seen to, of all parts. */
export function OfferNewsPage() {
  const news = useNews();
  const settle = useSettleNews();
  const navigate = useNavigate();
  const may = useMay();
  const say = useSay();
  const [selected, setSelected] = useState<Set<string>>(new Set());
  const [only, setOnly] = useState('');
  const all = useMemo<News[]>(() => together(news.data?.items ?? []).map(({ n, ids }) => ({ ...n, ids })), [news.data]);
  const rows = only ? all.filter((n) => n.what === only) : all;
  const kinds = [...new Set(all.map((n) => n.what))];
  const total = news.data?.total ?? 0;
  return (
    <>
      <PageHead
        title="What suppliers say otherwise"
        sub={
          news.data
            ? `${all.length.toLocaleString('en')} that nobody has seen to${total > news.data.items.length ? `, of the newest ${news.data.items.length.toLocaleString('en')}` : ''}`
            : '…'
        }
      >
        {kinds.length > 1 && (
          <label className="flex items-center gap-1.5 text-sm">
            Of
            <select
              className="min-h-7 rounded border border-line bg-sheet px-2 text-sm"
              value={only}
              onChange={(e) => setOnly(e.target.value)}
            >
              <option value="">everything</option>
              {kinds.map((k) => (
                <option key={k} value={k}>
                  {words[k] ?? k}
                </option>
              ))}
            </select>
          </label>
        )}
        {may('part.edit') && (
          <Button
            disabled={settle.isPending || selected.size === 0}
            onClick={() => {
              const ids = all
                .filter((n) => selected.has(n.id))
                .flatMap((n) => n.ids)
                .slice(0, 500);
              settle.mutate(ids, {
                onSuccess: (got) => {
                  setSelected(new Set());
                  say(got.settled === 1 ? 'One is seen to.' : `${got.settled} are seen to.`);
                },
              });
            }}
          >
            {selected.size === 0 ? 'Seen to' : `${selected.size} seen to`}
          </Button>
        )}
        <a className="self-center text-sm underline" download href="/api/v1/offer-list?format=csv">
          All offers as CSV
        </a>
        <Link className="self-center text-sm underline" to="/suppliers">
          Ask the suppliers
        </Link>
      </PageHead>
      <Trouble error={settle.error} />
      {news.data ? <Stale of={news} /> : <Trouble error={news.error} />}
      <DataTable
        label="News of offers"
        rows={rows}
        columns={columns}
        rowKey={(n) => n.id}
        selected={selected}
        onSelect={setSelected}
        onOpen={(n) => n.parts[0] && void navigate(`/parts/${encodeURIComponent(n.parts[0])}`)}
        empty={
          news.data ? (
            <Empty title="Nothing became otherwise">
              When suppliers are asked again, what changed in what matters is said here: a product that ends, a price that jumped, stock for
              less than a build.
            </Empty>
          ) : undefined
        }
      />
    </>
  );
}

const columns: Column<News>[] = [
  { key: 'part', head: 'Part', width: 118, cell: (n) => <span className="font-semibold">{n.parts.join(', ') || '–'}</span> },
  { key: 'what', head: 'Of', width: 130, cell: (n) => <Chip tone={n.what === 'back' ? 'good' : 'open'}>{words[n.what] ?? n.what}</Chip> },
  { key: 'says', head: 'What is said', width: 300, grow: true, cell: (n) => <span title={n.says}>{n.says}</span> },
  { key: 'supplier', head: 'Supplier', width: 190, cell: (n) => n.supplier },
  { key: 'source', head: 'Source', width: 170, cell: (n) => <span title={n.source}>{n.source}</span> },
  { key: 'propose', head: 'Proposed', width: 140, cell: (n) => n.propose ?? '' },
  { key: 'at', head: 'Since', width: 100, cell: (n) => age(n.at) },
]; // prettier-ignore
