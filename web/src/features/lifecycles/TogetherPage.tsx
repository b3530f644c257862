import { useEffect, useRef, useState } from 'react';
import { Link, useParams } from 'react-router';
import { type Schemas } from '../../api/client';
import { Asked } from '../../ui/asked';
import { Button, Chip, Dialog, Empty, PageHead, Trouble } from '../../ui/kit';
import { SheetPanel, useSheet } from '../../ui/sheet';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { SignFields } from './SignFields';
import { BulkMove } from './BulkMove';
import { useSignMany, useTickMany, useTogether } from './queries';

type Together = Schemas['TogetherReview'];
type Part = Together['parts'][number];

/** The parts of one datasheet side by side: what all say alike is looked up once, the rest part by part, as in the datasheet's own table. */
export function TogetherPage() {
  const { id = '' } = useParams();
  const together = useTogether(id);
  return (
    <Asked of={together}>
      {(t) =>
        t.parts.length === 0 ? (
          <>
            <PageHead title={`Reviews ${t.series ? `of ${t.series}` : `against ${t.sheet.name}`}`} />
            <Empty title={t.series ? 'Nothing of this series waits for you' : 'Nothing with this datasheet waits for you'}>
              <p>
                What you changed yourself waits for somebody else. <Link to="/queue">Back to the queue</Link>
              </p>
            </Empty>
          </>
        ) : (
          <Lists t={t} />
        )
      }
    </Asked>
  );
}

const item = (p: Part, key: string) => p.items.find((i) => i.key === key);

/**
 * What was ticked and not sent yet. Whoever ticks quickly is ahead of the service: ticks of one item go together, one deed after the
 * other, each on the versions that came back from the one before.
 */
function useTicks(t: Together) {
  const [wished, setWished] = useState<Record<string, boolean>>({});
  const tick = useTickMany();
  const { mutate, isPending } = tick;
  const at = (part: string, key: string) => `${part} ${key}`;
  const made = useRef(new Map<string, number>()); // the version of each part that ticks made: what shows an older one is being asked for anew
  useEffect(() => {
    if (isPending) return;
    const anew = t.parts.filter((p) => p.version >= (made.current.get(p.id) ?? 0));
    const open = anew.flatMap((p) =>
      p.items
        .filter((i) => wished[at(p.id, i.key)] !== undefined && wished[at(p.id, i.key)] !== i.mine)
        .map((i) => ({ p, key: i.key, to: !i.mine })),
    );
    const first = open[0];
    if (!first) return;
    const sent = open.filter((o) => o.key === first.key && o.to === first.to);
    mutate(
      { things: sent.map((o) => ({ id: o.p.id, version: o.p.version })), items: [first.key], untick: !first.to },
      {
        onError: () => setWished({}),
        onSuccess: (done) => {
          for (const x of done.things) made.current.set(x.id, x.version);
          setWished((w) =>
            Object.fromEntries(Object.entries(w).filter(([k, v]) => v !== first.to || !sent.some((o) => at(o.p.id, o.key) === k))),
          );
        },
      },
    );
  }, [isPending, mutate, t, wished]);
  const ticked = (p: Part, key: string) => wished[at(p.id, key)] ?? item(p, key)?.mine ?? false;
  const flip = (parts: Part[], key: string) => {
    const to = !parts.every((p) => ticked(p, key));
    setWished((w) => ({ ...w, ...Object.fromEntries(parts.filter((p) => item(p, key)).map((p) => [at(p.id, key), to])) }));
  };
  return { ticked, flip, error: tick.error };
}

function Lists({ t }: { t: Together }) {
  const may = useMay();
  const { ticked, flip, error } = useTicks(t);
  const [left, setLeft] = useState<string[]>([]); // parts that are not signed now
  const [signing, setSigning] = useState(false);
  const [moving, setMoving] = useState(false);
  const sheet = useSheet(t.sheet.hash ? [t.sheet] : []);
  const [at, setAt] = useState({ row: 0, column: 0 });
  const parts = t.parts.filter((p) => !left.includes(p.id));
  const review = may('thing.review');
  const signed = (p: Part) => p.signed.filter((s) => s.current && !s.author);
  const rows = [...t.alike.map((i) => ({ all: true as const, i })), ...t.parts.map((p) => ({ all: false as const, p }))];
  const press = (row: number, column: number) => {
    const r = rows[row];
    if (!r || !review) return;
    if (r.all) flip(t.parts, r.i.key);
    else if (column === 0) setLeft((l) => (l.includes(r.p.id) ? l.filter((x) => x !== r.p.id) : [...l, r.p.id]));
    else flip([r.p], t.differ[column - 1]?.items[row - t.alike.length] ?? '');
  };
  const onKeyDown = (e: React.KeyboardEvent) => {
    const wide = rows[at.row]?.all ? 0 : t.differ.length;
    const to = {
      ArrowDown: { row: Math.min(at.row + 1, rows.length - 1), column: at.column },
      ArrowUp: { row: Math.max(at.row - 1, 0), column: at.column },
      ArrowRight: { row: at.row, column: Math.min(at.column + 1, wide) },
      ArrowLeft: { row: at.row, column: Math.max(at.column - 1, 0) },
      Home: { row: at.row, column: 0 },
      End: { row: at.row, column: wide },
    }[e.key];
    if (to) setAt(to);
    else if (e.key === ' ' || e.key === 'Enter') {
      press(at.row, at.column);
      if (e.key === 'Enter') setAt({ ...at, row: Math.min(at.row + 1, rows.length - 1) });
    } else return;
    e.preventDefault();
    requestAnimationFrame(() =>
      document.getElementById(`cell-${(to ?? at).row}-${(to ?? at).column}`)?.scrollIntoView({ block: 'nearest', inline: 'nearest' }),
    );
  };
  const here = (row: number, column: number) =>
    row === at.row && (column === at.column || rows[row]?.all) ? 'bg-tint outline-1 outline-accent' : '';
  const mark = (on: boolean) => (
    <span aria-hidden="true" className="mr-1">
      {on ? '☑' : '☐'}
    </span>
  );
  return (
    <>
      <PageHead
        title={`Reviews ${t.series ? `of ${t.series}` : `against ${t.sheet.name}`}`}
        sub={`${t.parts.length === 1 ? '1 part waits' : `${t.parts.length} parts wait`} for you ${t.series ? 'of this series' : 'with this datasheet'}${t.more ? ', and more than are shown here' : ''}; ${t.alike.length} items are alike in all`}
      >
        {review && (
          <>
            <Button disabled={parts.length === 0} onClick={() => setMoving(true)}>
              Move {parts.length} on…
            </Button>
            <Button look="act" disabled={parts.length === 0} onClick={() => setSigning(true)}>
              Sign {parts.length}…
            </Button>
          </>
        )}
      </PageHead>
      <div className="grid min-h-0 flex-1 content-start gap-3 overflow-auto p-4 xl:grid-cols-[3fr_2fr]">
        <div className="min-w-0 space-y-3">
          <Trouble error={error} />
          <div
            role="grid"
            aria-label="Review lists"
            aria-multiselectable="true"
            tabIndex={0}
            aria-activedescendant={`cell-${at.row}-${rows[at.row]?.all ? 0 : at.column}`}
            onKeyDown={onKeyDown}
            className="space-y-3 text-sm outline-offset-2"
          >
            {t.alike.length > 0 && (
              <div role="rowgroup" className="rounded border border-line bg-sheet">
                <div className="border-b border-line px-2 py-1 font-semibold">Alike in all {t.parts.length}: looked up once</div>
                {t.alike.map((i, row) => {
                  const on = t.parts.every((p) => ticked(p, i.key));
                  return (
                    <div role="row" key={i.key} className="border-t border-line/60 first:border-t-0">
                      {/* eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/interactive-supports-focus -- the grid has the keys */}
                      <div
                        role="gridcell"
                        id={`cell-${row}-0`}
                        aria-selected={on}
                        onClick={() => {
                          setAt({ row, column: 0 });
                          press(row, 0);
                        }}
                        className={`grid cursor-pointer grid-cols-[1.5rem_minmax(8rem,1fr)_minmax(8rem,2fr)] gap-2 px-2 py-1 ${here(row, 0)}`}
                      >
                        {mark(on)}
                        <span className="text-soft">{i.label}</span>
                        <span className="font-semibold break-words">
                          {i.text || <span className="font-normal text-soft">blank</span>}{' '}
                          {i.changed && <Chip tone="open">changed since it was ticked</Chip>}
                        </span>
                      </div>
                    </div>
                  );
                })}
              </div>
            )}
            <div role="presentation" className="overflow-x-auto rounded border border-line bg-sheet">
              <table role="presentation" className="w-full">
                <thead>
                  <tr role="row">
                    <th role="columnheader" scope="col" className="px-2 py-1 text-left">
                      Part
                    </th>
                    {t.differ.map((d) => (
                      <th role="columnheader" scope="col" key={d.items.join()} className="px-2 py-1 text-left whitespace-nowrap">
                        {d.label}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {t.parts.map((p, n) => {
                    const row = t.alike.length + n;
                    const into = !left.includes(p.id);
                    return (
                      <tr role="row" key={p.id} className={`border-t border-line/60 ${into ? '' : 'opacity-60'}`}>
                        <td
                          role="gridcell"
                          id={`cell-${row}-0`}
                          aria-selected={into}
                          onClick={() => {
                            setAt({ row, column: 0 });
                            press(row, 0);
                          }}
                          className={`cursor-pointer px-2 py-1 align-top whitespace-nowrap ${here(row, 0)}`}
                        >
                          {p.number}
                          <span className="block text-xs text-soft">
                            {into ? (p.open === 0 ? 'all ticked' : `${p.open} open`) : 'left out'}
                            {signed(p).length > 0 &&
                              `, signed by ${signed(p)
                                .map((s) => s.by)
                                .join(', ')}`}
                          </span>
                        </td>
                        {t.differ.map((d, c) => {
                          const key = d.items[n] ?? '';
                          const i = item(p, key);
                          const on = ticked(p, key);
                          return (
                            <td
                              role="gridcell"
                              key={d.items.join()}
                              id={`cell-${row}-${c + 1}`}
                              aria-selected={on}
                              onClick={() => {
                                setAt({ row, column: c + 1 });
                                press(row, c + 1);
                              }}
                              className={`cursor-pointer px-2 py-1 align-top ${(i?.text.length ?? 0) < 32 ? 'whitespace-nowrap' : ''} ${here(row, c + 1)}`}
                            >
                              {i ? (
                                <>
                                  {mark(on)}
                                  {i.text || <span className="text-soft">blank</span>}
                                  {i.changed && <Chip tone="open">changed</Chip>}
                                </>
                              ) : (
                                <span className="text-soft">–</span>
                              )}
                            </td>
                          );
                        })}
                      </tr>
                    );
                  })}
                </tbody>
              </table>
            </div>
          </div>
          <p className="text-xs text-soft">
            Arrows move, Space ticks, Enter ticks and goes down. A tick on what is alike counts for every part; Space on a part's number
            leaves it out of signing.
          </p>
        </div>
        <SheetPanel of={sheet} />
      </div>
      {signing && <SignAll parts={parts} laid={sheet.against} onClose={() => setSigning(false)} />}
      {moving && (
        <BulkMove
          things={parts.map((p) => ({ id: p.id, version: p.version }))}
          onClose={() => setMoving(false)}
          onDone={() => setLeft([])}
        />
      )}
    </>
  );
}

function SignAll({ parts: now, laid, onClose }: { parts: Part[]; laid: string; onClose: () => void }) {
  const [parts] = useState(now); // what was looked at
  const [against, setAgainst] = useState(laid);
  const [all, setAll] = useState(false);
  const sign = useSignMany();
  const say = useSay();
  const open = parts.reduce((n, p) => n + p.open, 0);
  const many = parts.length === 1 ? '1 review' : `${parts.length} reviews`;
  return (
    <Dialog open title={`Sign ${many}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          sign.mutate(
            { things: parts.map((p) => ({ id: p.id, version: p.version })), against, all },
            {
              onSuccess: () => {
                say(`You signed ${many}.`);
                onClose();
              },
            },
          );
        }}
      >
        <SignFields against={against} setAgainst={setAgainst} open={open} all={all} setAll={setAll} />
        <Trouble error={sign.error} />
        <Button look="act" type="submit" disabled={sign.isPending}>
          Sign {many}
        </Button>
      </form>
    </Dialog>
  );
}
