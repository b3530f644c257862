import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { Asked } from '../../ui/asked';
import { Button, Chip, Dialog, Empty, PageHead, Trouble } from '../../ui/kit';
import { ScrollList } from '../../ui/scroll';
import { DataTable, type Column } from '../../ui/table';
import { waited } from '../../ui/waited';
import { pageOf, useNotices, useSee, useWatches, useWatching, type Notice, type Of } from './queries';

const columns: Column<Notice>[] = [
  { key: 'at', head: 'Ago', width: 80, cell: (n) => <span title={new Date(n.at).toLocaleString()}>{waited(n.at)}</span> },
  { key: 'new', head: 'New', width: 70, cell: (n) => !n.seen && <Chip tone="open">new</Chip> },
  {
    key: 'title',
    head: 'What was done',
    width: 420,
    grow: true,
    cell: (n) => (
      <span className={n.seen ? '' : 'font-semibold'} title={n.title}>
        {n.title}
      </span>
    ),
  },
  { key: 'why', head: 'Why you are told', width: 300, cell: (n) => <span title={n.why}>{n.why}</span> },
];

/** What somebody was told, newest first; Enter opens what it is about. */
export function NoticesPage() {
  const [params, setParams] = useSearchParams();
  const unread = params.get('all') === null;
  const notices = useNotices(unread);
  const see = useSee();
  const navigate = useNavigate();
  const [watching, setWatching] = useState(false);
  const [several, setSeveral] = useState<Notice>();
  const open = (n: Notice) => {
    if (!n.seen) see.mutate({ ids: [n.id] });
    const page = pageOf(n);
    if (page) void navigate(page);
    else setSeveral(n);
  };
  return (
    <>
      <PageHead title="Notices" sub={unread ? 'What you have not seen yet' : 'All that you were told'}>
        <Button onClick={() => setWatching(true)}>What you watch…</Button>
        <Button onClick={() => setParams(unread ? { all: '' } : {})}>{unread ? 'Show all' : 'Only what is new'}</Button>
        {notices.data && notices.data.unread > 0 && (
          <Button look="act" disabled={see.isPending} onClick={() => see.mutate({ upTo: notices.data.items[0]?.n ?? 0 })}>
            All seen
          </Button>
        )}
      </PageHead>
      <Trouble error={see.error} />
      <Asked of={notices}>
        {(l) =>
          l.items.length === 0 ? (
            <Empty title={unread ? 'Nothing new' : 'You were told nothing yet'}>
              <p>
                You hear of what you watch, of what your groups answer for, and of what becomes of what you wrote or wanted. “Watch” stands
                on the page of each part, model, BOM, want and drawer, and above a list of parts. By mail or hook:{' '}
                <Link className="underline" to="/you">
                  your page
                </Link>
                .
              </p>
            </Empty>
          ) : (
            <>
              <p role="status" className="border-b border-line px-4 py-1 text-sm text-soft">
                {l.unread === 0 ? 'All seen' : `${l.unread.toLocaleString('en')} new`}
                {l.page.total > l.items.length && ` · the newest ${l.items.length} of ${l.page.total.toLocaleString('en')}`}
              </p>
              <DataTable label="Notices" rows={l.items} columns={columns} rowKey={(n) => n.id} onOpen={open} />
            </>
          )
        }
      </Asked>
      {watching && <Watches onClose={() => setWatching(false)} />}
      {several && <Several n={several} onClose={() => setSeveral(undefined)} />}
    </>
  );
}

/** A notice of several things. */
function Several({ n, onClose }: { n: Notice; onClose: () => void }) {
  return (
    <Dialog title="Notice" open onClose={onClose}>
      <p className="mb-1 font-semibold">{n.title}</p>
      <p className="mb-3 text-sm text-soft">
        {new Date(n.at).toLocaleString()} · {n.why}
      </p>
      <ScrollList className="max-h-80 text-sm">
        {n.things.map((t) => {
          const page = pageOf({ things: [t], more: 0 });
          return (
            <li key={t.kind + t.id} className="border-t border-line/60 py-1 first:border-t-0">
              {page ? (
                <Link className="underline" to={page}>
                  {t.number}
                </Link>
              ) : (
                t.number
              )}
            </li>
          );
        })}
      </ScrollList>
      {Boolean(n.more) && <p className="mt-2 text-sm text-soft">and {n.more?.toLocaleString('en')} more</p>}
    </Dialog>
  );
}

const words: Record<string, string> = {
  part: 'part',
  model: 'model',
  bom: 'BOM',
  want: 'want',
  drawer: 'drawer',
  kind: 'kind of model',
  question: 'question',
};

/** What somebody watches, each to be ended. */
function Watches({ onClose }: { onClose: () => void }) {
  const watches = useWatches();
  const watching = useWatching();
  return (
    <Dialog title="What you watch" open onClose={onClose}>
      <Trouble error={watching.error} />
      <Asked of={watches}>
        {(l) =>
          l.items.length === 0 ? (
            <p className="text-sm text-soft">Nothing yet. “Watch” stands on the page of each part, model, BOM, want and drawer.</p>
          ) : (
            <ScrollList className="max-h-96 text-sm">
              {l.items.map((w) => (
                <li key={w.of + w.about} className="flex items-baseline gap-2 border-t border-line/60 py-1 first:border-t-0">
                  <span className="w-28 shrink-0 text-soft">{words[w.of] ?? w.of}</span>
                  <span className="min-w-0 flex-1 font-semibold break-words">{w.name}</span>
                  <Button
                    look="quiet"
                    aria-label={`Watch ${w.name} no more`}
                    disabled={watching.isPending}
                    onClick={() => watching.mutate({ of: w.of as Of, about: w.about, end: true })}
                  >
                    No more
                  </Button>
                </li>
              ))}
            </ScrollList>
          )
        }
      </Asked>
    </Dialog>
  );
}
