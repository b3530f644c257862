import { useEffect, useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { Asked } from '../../ui/asked';
import { useKeys } from '../../ui/keys';
import { Button, Chip, Dialog, PageHead, Panel, Trouble } from '../../ui/kit';
import { SheetPanel, useSheet } from '../../ui/sheet';
import { useSay } from '../../ui/toast';
import { Talk } from '../comments';
import { useMay } from '../people';
import { SignFields } from './SignFields';
import { MoveButtons } from './LifePanel';
import { useQueue, useReview, useSign, useTick, useTurn, type Review } from './queries';

/** A review list: each line is laid beside the datasheet, or of a BOM the drawing, and ticked, then all of it is signed. */
export function ReviewPage() {
  const { id = '' } = useParams();
  const review = useReview(id);
  return <Asked of={review}>{(r) => <List key={r.id} r={r} />}</Asked>;
}

/** The things before and after this one in the queue. */
function useNeighbours(id: string, all: boolean) {
  const queue = useQueue(!all);
  const items = queue.data?.items ?? [];
  const at = items.findIndex((i) => i.id === id);
  return { before: items[at - 1], after: items[at + 1], place: at < 0 ? '' : `${at + 1} of ${items.length} in the queue` };
}

function List({ r }: { r: Review }) {
  const [params] = useSearchParams();
  const all = params.get('all') !== null;
  const { before, after, place } = useNeighbours(r.id, all);
  const navigate = useNavigate();
  const may = useMay();
  const tick = useTick(r.id);
  const turn = useTurn(r.id);
  const [at, setAt] = useState(0);
  const [signing, setSigning] = useState(false);
  const sheet = useSheet(r.datasheets);
  const go = (to?: { id: string }) => to && void navigate(`/review/${to.id}${all ? '?all' : ''}`);
  // Whoever ticks quickly is ahead of the service: what was ticked meanwhile is sent together, on the version that came back.
  const [wished, setWished] = useState<Record<string, boolean>>({});
  const ticked = (i: Review['items'][number]) => wished[i.key] ?? i.mine;
  const flip = (n: number) => {
    const item = r.items[n];
    if (item && may('thing.review')) setWished((w) => ({ ...w, [item.key]: !(w[item.key] ?? item.mine) }));
  };
  const { mutate, isPending } = tick;
  useEffect(() => {
    const open = r.items.filter((i) => wished[i.key] !== undefined && wished[i.key] !== i.mine);
    const first = open[0];
    if (isPending || !first) return;
    const items = open.filter((i) => i.mine === first.mine).map((i) => i.key);
    const sent = !first.mine;
    mutate(
      { version: r.version, body: { items, untick: first.mine } },
      {
        onError: () => setWished({}),
        // What was ticked the other way meanwhile is still wished; the rest is as the service says.
        onSuccess: () => setWished((w) => Object.fromEntries(Object.entries(w).filter(([k, v]) => !items.includes(k) || v !== sent))),
      },
    );
  }, [isPending, mutate, r, wished]);
  useKeys(
    {
      n: after ? () => void navigate(`/review/${after.id}${all ? '?all' : ''}`) : undefined,
      p: before ? () => void navigate(`/review/${before.id}${all ? '?all' : ''}`) : undefined,
    },
    'page',
  );
  const thing =
    r.kind === 'part'
      ? `/parts/${encodeURIComponent(r.number)}`
      : r.kind === 'bom'
        ? `/boms/${encodeURIComponent(r.number)}`
        : `/models/${r.id}`;
  return (
    <>
      <PageHead
        title={<>Review of {r.number}</>}
        sub={
          <span className="flex flex-wrap items-center gap-2">
            {r.open === 0 ? `all ${r.items.length} items are ticked by you` : `${r.open} of ${r.items.length} items are open`}
            {place && <span>· {place}</span>}
            <Link to={thing} className="underline">
              Open it
            </Link>
            {r.taken && <Chip tone={r.takenByMe ? 'plain' : 'open'}>{r.takenByMe ? 'you are at it' : `${r.taken} is at it`}</Chip>}
          </span>
        }
      >
        <Button disabled={!before} onClick={() => go(before)}>
          ‹ Before
        </Button>
        <Button disabled={!after} onClick={() => go(after)}>
          Next ›
        </Button>
        {may('thing.review') && (
          <>
            <Button disabled={turn.isPending} onClick={() => turn.mutate({ version: r.version, letGo: r.takenByMe ?? false })}>
              {r.takenByMe ? 'Let go' : 'Take it'}
            </Button>
            <Button look="act" onClick={() => setSigning(true)}>
              Sign…
            </Button>
          </>
        )}
        {r.kind === 'part' && (r.datasheets.length > 0 || r.series.length > 0) && (
          <Button onClick={() => void navigate(`/review/${r.id}/together`)}>With its series…</Button>
        )}
        <MoveButtons
          id={r.id}
          name={r.number}
          onRelease={r.kind === 'bom' ? () => void navigate(`${thing}/revisions?freeze`) : undefined}
        />
      </PageHead>
      <div className={`grid min-h-0 flex-1 content-start gap-3 overflow-auto p-4 ${sheet.sheet ? 'lg:grid-cols-2' : ''}`}>
        <div className="space-y-3">
          <Trouble error={tick.error ?? turn.error} />
          <Panel title="Review list">
            <ul
              role="listbox"
              aria-label="Review list"
              aria-multiselectable="true"
              tabIndex={0}
              aria-activedescendant={`item-${at}`}
              className="text-sm outline-offset-2"
              onKeyDown={(e) => {
                if (e.key === 'ArrowDown') setAt(Math.min(at + 1, r.items.length - 1));
                else if (e.key === 'ArrowUp') setAt(Math.max(at - 1, 0));
                else if (e.key === ' ' || e.key === 'Enter') {
                  flip(at);
                  if (e.key === 'Enter') setAt(Math.min(at + 1, r.items.length - 1));
                } else return;
                e.preventDefault();
              }}
            >
              {r.items.map((i, n) => (
                // eslint-disable-next-line jsx-a11y/click-events-have-key-events -- the list has the keys, as a listbox does
                <li
                  key={i.key}
                  id={`item-${n}`}
                  role="option"
                  aria-selected={ticked(i)}
                  onClick={() => {
                    setAt(n);
                    flip(n);
                  }}
                  className={`grid cursor-pointer grid-cols-[1.5rem_minmax(8rem,2fr)_minmax(8rem,3fr)_minmax(6rem,2fr)] items-baseline gap-2 border-t border-line/60 px-1 py-1 first:border-t-0 ${n === at ? 'bg-tint' : ''}`}
                >
                  <span aria-hidden="true" className="text-center">
                    {ticked(i) ? '☑' : '☐'}
                  </span>
                  <span className="text-soft">{i.label}</span>
                  <span className="font-semibold break-words">{i.text || <span className="font-normal text-soft">blank</span>}</span>
                  <span className="text-xs text-soft">
                    {i.by.join(', ')}
                    {i.changed && <Chip tone="open">changed since it was ticked</Chip>}
                  </span>
                </li>
              ))}
            </ul>
            <p className="mt-2 text-xs text-soft">
              ↑ ↓ move, Space ticks, Enter ticks and goes on; n and p go to the next and the one before.
            </p>
          </Panel>
          <Talk id={r.id} abouts={Object.fromEntries(r.items.map((i) => [i.key, i.label]))} />
          <Panel title="Signatures">
            {r.signed.length === 0 && <p className="text-sm text-soft">Nobody has signed it yet.</p>}
            <ul className="space-y-1 text-sm">
              {r.signed.map((s) => (
                <li key={s.by + s.at} className="flex flex-wrap gap-2">
                  <Chip tone={s.current && !s.author ? 'good' : 'calm'}>
                    {s.author ? 'by an author' : s.current ? 'as it is now' : 'an earlier content'}
                  </Chip>
                  {s.by}, {new Date(s.at).toLocaleString()}: {s.against}
                </li>
              ))}
            </ul>
          </Panel>
        </div>
        <SheetPanel of={sheet} />
      </div>
      {signing && <SignDialog r={r} laid={sheet.against} onClose={() => setSigning(false)} />}
    </>
  );
}

function SignDialog({ r: now, laid, onClose }: { r: Review; laid: string; onClose: () => void }) {
  const [r] = useState(now); // what was looked at
  const [against, setAgainst] = useState(laid);
  const [all, setAll] = useState(false);
  const sign = useSign(r.id);
  const say = useSay();
  return (
    <Dialog open title={`Sign the review of ${r.number}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          sign.mutate(
            { version: r.version, body: { against, all } },
            {
              onSuccess: () => {
                say(`You signed ${r.number} as it is.`);
                onClose();
              },
            },
          );
        }}
      >
        <SignFields against={against} setAgainst={setAgainst} open={r.open} all={all} setAll={setAll} />
        <Trouble error={sign.error} />
        <Button look="act" type="submit" disabled={sign.isPending}>
          Sign
        </Button>
      </form>
    </Dialog>
  );
}
