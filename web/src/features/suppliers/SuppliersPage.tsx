import { useMemo, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { Button, Chip, Empty, Field, PageHead, Trouble } from '../../ui/kit';
import { Stale } from '../../ui/asked';
import { DataTable, type Column } from '../../ui/table';
import { useSay } from '../../ui/toast';
import { useCabinet } from '../cabinet/queries';
import { Facets } from '../parts';
import type { Schemas } from '../../api/client';
import { useMay } from '../people';
import { CompareDialog } from './CompareDialog';
import { OfferedBeside } from './OfferedBeside';
import { TakeDialog } from './TakeDialog';
import { age, buying, sum, useAnswers, useAskAgain, useIntakeOf, useQuestion, type Answers, type Offered, type Question } from './queries';

const tones = { waiting: 'calm', answered: 'good', 'in part': 'open', 'no answer': 'bad' } as const;

/** One question to all suppliers at once: what fits first, own parts before others, the cheapest offer of each. */
export function SuppliersPage() {
  const { asked, ready, usual, set } = useQuestion();
  const answers = useAnswers(asked, ready);
  const again = useAskAgain(asked);
  const may = useMay();
  const [active, setActive] = useState<string>();
  const [opened, setOpened] = useState<{ row: Offered; into?: string }>();
  const [selected, setSelected] = useState<Set<string>>(new Set());
  const [comparing, setComparing] = useState(false);
  const [fits, setFits] = useState(false);
  const [filtering, setFiltering] = useState(false);
  const cabinet = useCabinet();
  const intake = useIntakeOf();
  const say = useSay();
  const navigate = useNavigate();
  const all = answers.data?.rows ?? [];
  const rows = fits ? all.filter((r) => r.fails.length === 0) : all;
  const row = rows.find((r) => r.key === active) ?? rows[0];
  const kinds = [...new Set(all.map((r) => r.drawer).filter((x) => x !== ''))];
  const kind = kinds.length === 1 ? cabinet.data?.drawers.find((x) => x.key === kinds[0]) : undefined;
  const columns = useMemo(() => columnsFor(asked.pieces ?? 1, kind), [asked.pieces, kind]);
  const filters = asked.filters ?? {};
  const chosen = Object.values(filters).flat().length;
  const toggle = (key: string, v: string) => {
    const was = filters[key] ?? [];
    set({ filters: { ...filters, [key]: was.includes(v) ? was.filter((x) => x !== v) : [...was, v] } });
  };
  const first = asked.sort?.[0] ?? '';
  const sort = first.startsWith('-') ? { key: first.slice(1), down: true } : { key: first, down: false };
  const a = answers.data;
  return (
    <>
      <PageHead
        title="Suppliers"
        sub={
          a
            ? `${a.fit.toLocaleString('en')} ${a.fit === 1 ? 'product fits' : 'products fit'}, of ${a.total.toLocaleString('en')} that were answered with${a.hidden ? ` · ${a.hidden.toLocaleString('en')} are hidden by the filters` : ''}`
            : 'The same question to all suppliers at once'
        }
      >
        {selected.size > 1 && may('intake.edit') && (
          <Button
            disabled={intake.isPending}
            onClick={() =>
              intake.mutate(
                { question: { ...asked, again: false, filters: undefined, sort: undefined }, keys: [...selected] },
                {
                  onSuccess: (got) => {
                    const one = got.items[0];
                    say(got.items.map((i) => `${i.number}: ${i.products} of ${i.supplier}`).join('; '));
                    void navigate(got.items.length === 1 && one ? `/intakes/${one.id}` : '/intakes');
                  },
                },
              )
            }
          >
            Make an intake of {selected.size}
          </Button>
        )}
        {selected.size > 0 && selected.size < 7 && <Button onClick={() => setComparing(true)}>Compare {selected.size}</Button>}
        {a && a.total > 0 && (
          <Button aria-pressed={filtering} onClick={() => setFiltering(!filtering)}>
            {`${filtering ? '◧' : '□'} Filters${chosen ? ` (${chosen})` : ''}`}
          </Button>
        )}
        {a && a.fit < a.total && (
          <Button aria-pressed={fits} onClick={() => setFits(!fits)}>
            {fits ? '◨ Only what fits' : '□ Only what fits'}
          </Button>
        )}
        <Link className="hidden self-center text-sm underline md:inline" to="/offers">
          What they say otherwise
        </Link>
        {asked.text && (
          <Button disabled={again.isPending} onClick={() => again.mutate()}>
            Ask again
          </Button>
        )}
      </PageHead>
      <QuestionForm key={JSON.stringify(asked)} asked={asked} usual={usual} onAsk={set} />
      <Trouble error={again.error ?? intake.error} />
      {a ? <Stale of={answers} /> : <Trouble error={answers.error} />}
      {a && <Standings answers={a} />}
      <div
        className={`grid min-h-0 flex-1 grid-cols-1 lg:grid-rows-1 ${filtering ? 'grid-rows-[30%_1fr_35%] lg:grid-cols-[11.5rem_minmax(0,1fr)_26rem]' : 'grid-rows-[1fr_45%] lg:grid-cols-[minmax(0,1fr)_26rem]'}`}
      >
        {filtering && (
          <aside aria-label="Filters" className="min-h-0 overflow-auto border-r border-line bg-ground p-2 text-sm">
            {chosen > 0 && (
              <Button className="mb-2" onClick={() => set({ filters: {} })}>
                Show all
              </Button>
            )}
            <Facets
              looking={{ filters }}
              facets={a?.facets ?? []}
              drawers={a?.drawers ?? {}}
              label={(k) => cabinet.data?.drawers.find((x) => x.key === k)?.label ?? k}
              onToggle={toggle}
            />
          </aside>
        )}
        <DataTable
          key={asked.text}
          label="Products"
          rows={rows}
          columns={columns}
          rowKey={(r) => r.key}
          selected={selected}
          onSelect={setSelected}
          onActive={(r) => setActive(r?.key)}
          sort={sort}
          onSort={(key) => set({ sort: sort.key === key && sort.down ? [] : [sort.key === key ? `-${key}` : key] })}
          onOpen={(r) => may('part.edit') && setOpened({ row: r })}
          empty={
            asked.text === '' ? (
              <Empty title="Ask the suppliers">Write what is looked for, such as 4k7 0805 1%. Their answers come as they arrive.</Empty>
            ) : a?.done ? (
              <Empty title="No supplier has it">
                Relax a fact, or{' '}
                <Link className="underline" to="/wants">
                  say that it is wanted
                </Link>
                .
              </Empty>
            ) : undefined
          }
        />
        <OfferedBeside
          row={row}
          pieces={asked.pieces ?? 1}
          onTake={() => row && setOpened({ row })}
          onSource={() => row && setOpened({ row, into: a?.own[0]?.number ?? '' })}
        />
      </div>
      {opened && <TakeDialog row={opened.row} into={opened.into} question={asked} onClose={() => setOpened(undefined)} />}
      {comparing && <CompareDialog rows={rows.filter((r) => selected.has(r.key))} own={a?.own ?? []} onClose={() => setComparing(false)} />}
      {a && a.ownTotal > 0 && <OwnParts own={a} />}
    </>
  );
}

/** What the library itself has, said below the table and never in its way. */
function OwnParts({ own }: { own: Answers }) {
  return (
    <p className="border-t border-line px-4 py-1 text-sm">
      The library has {own.ownTotal.toLocaleString('en')} such {own.ownTotal === 1 ? 'part' : 'parts'}:{' '}
      {own.own.slice(0, 6).map((p) => (
        <Link key={p.id} className="mr-2 font-semibold underline" to={`/parts/${encodeURIComponent(p.number)}`}>
          {p.number}
        </Link>
      ))}
    </p>
  );
}

function QuestionForm({ asked, usual, onAsk }: { asked: Question; usual?: string; onAsk: (q: Partial<Question>) => void }) {
  const [q, setQ] = useState(asked);
  const whole = (text: string) => Math.max(0, Math.min(1_000_000_000, Math.floor(Number(text) || 0)));
  return (
    <form
      className="flex flex-wrap items-end gap-3 border-b border-line px-4 py-2"
      onSubmit={(e) => {
        e.preventDefault();
        onAsk(q);
      }}
    >
      <div className="w-72">
        <Field label="What is looked for" value={q.text} placeholder="4k7 0805 1%" onChange={(e) => setQ({ ...q, text: e.target.value })} />
      </div>
      <div className="w-24">
        <Field label="Pieces" type="number" min={1} value={q.pieces ?? 1} onChange={(e) => setQ({ ...q, pieces: whole(e.target.value) })} />
      </div>
      <div className="w-24">
        <Field label="In stock" type="number" min={0} value={q.stock ?? 0} onChange={(e) => setQ({ ...q, stock: whole(e.target.value) })} />
      </div>
      <div className="w-28">
        <Field label="Packing" value={q.packing ?? ''} placeholder="tape" onChange={(e) => setQ({ ...q, packing: e.target.value })} />
      </div>
      <label className="flex items-center gap-1.5 pb-1.5 text-sm">
        <input type="checkbox" checked={q.inProduction ?? false} onChange={(e) => setQ({ ...q, inProduction: e.target.checked })} />
        In production
      </label>
      <Button look="act" type="submit">
        Ask
      </Button>
      {usual && <p className="pb-1.5 text-sm text-soft">Your usual limits of {usual}</p>}
    </form>
  );
}

/** How each supplier stands to the question: a word, how many of its products fit, and what is wrong. */
function Standings({ answers }: { answers: Answers }) {
  return (
    <ul aria-label="Suppliers" aria-live="polite" className="flex flex-wrap gap-x-5 gap-y-1 border-b border-line px-4 py-1.5 text-sm">
      {answers.suppliers.map((s) => (
        <li key={s.supplier} className="flex items-center gap-1.5">
          <span className="font-medium">{s.supplier}</span>
          <Chip tone={tones[s.state as keyof typeof tones]}>{s.state}</Chip>
          {s.state !== 'no answer' && s.state !== 'waiting' && (
            <span className="text-soft">
              {s.fit} of {s.products}
              {s.at && s.kept && `, ${age(s.at)}`}
            </span>
          )}
          {s.says && <span className="max-w-96 text-soft">{s.says}</span>}
        </li>
      ))}
    </ul>
  );
}

function columnsFor(pieces: number, kind?: Schemas['Drawer']): Column<Offered>[] {
  // Of one kind of part, what tells its products apart stands in columns of its own.
  const own = kind ? (kind.columns.length ? kind.columns : kind.slots.map((s) => s.key)).slice(0, 6) : [];
  const parameters = own.map((key) => {
    const slot = kind?.slots.find((s) => s.key === key);
    const head = slot?.label ?? key;
    const right = slot?.type === 'measure' || slot?.type === 'number';
    return {
      key,
      head,
      width: Math.max(84, head.length * 7 + 30),
      sortable: true,
      align: right ? ('right' as const) : undefined,
      cell: (r: Offered) => r.values[key] ?? '–',
    };
  });
  return [
    { key: 'fits', head: 'Fits', width: 116, cell: (r) => (r.fails.length === 0 ? <Chip tone="good">fits</Chip> : <span title={r.fails.join(', ')}>✕ {r.fails.join(', ')}</span>) },
    { key: 'mpn', sortable: true, head: 'MPN', width: 164, cell: (r) => <span className="font-semibold" title={r.mpn}>{r.mpn}</span> },
    { key: 'offer.price', sortable: true, head: `For ${pieces.toLocaleString('en')}`, width: 96, align: 'right', cell: (r) => (r.offers[0] ? <span title={`${r.offers[0].supplier} ${buying(r.offers[0])}`}>{sum(r.offers[0])}{r.offers[0].buy?.over ? ' *' : ''}</span> : '') },
    { key: 'offer.stock', sortable: true, head: 'Stock', width: 80, align: 'right', cell: (r) => r.stock.toLocaleString('en') },
    { key: 'own', head: 'Own', width: 100, cell: (r) => r.own.join(', ') },
    { key: 'description', head: 'Description', width: 200, grow: true, cell: (r) => <span title={r.description}>{r.differ.length > 0 && <span title={r.differ.join('; ')}>◐ </span>}{r.description}</span> },
    ...parameters,
    { key: 'manufacturer', sortable: true, head: 'Manufacturer', width: 130, cell: (r) => r.manufacturer },
    { key: 'stands', head: 'Stands', width: 120, cell: (r) => r.stands ?? '' },
    { key: 'supplier', head: 'Cheapest of', width: 150, cell: (r) => r.offers[0]?.supplier ?? '' },
  ]; // prettier-ignore
}
