import { useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { Asked } from '../../ui/asked';
import { Button, Dialog, Field, PageHead, Panel, State, Trouble } from '../../ui/kit';
import { ScrollList } from '../../ui/scroll';
import { Looked } from '../../ui/looked';
import { Moved } from '../../ui/moved';
import { useSay } from '../../ui/toast';
import { waited } from '../../ui/waited';
import { WatchButton } from '../notices';
import { Talk } from '../comments';
import { useMay } from '../people';
import { LookList } from './LookList';
import { useSettle, useWant, type Want } from './queries';

export function WantPage() {
  const { key = '' } = useParams();
  const want = useWant(key);
  return <Asked of={want}>{(w) => <One key={w.id} w={w} />}</Asked>;
}

/** What a want says, as a text that is read into a part: everything said is filled in there. */
function text(w: Want): string {
  return [
    w.said.manufacturer && `Manufacturer: ${w.said.manufacturer}`,
    w.said.mpn && `MPN: ${w.said.mpn}`,
    w.said.link && `Link: ${w.said.link}`,
    w.said.facts,
  ]
    .filter(Boolean)
    .join('\n');
}

function One({ w }: { w: Want }) {
  const may = useMay();
  const settle = useSettle(w.id);
  const waits = w.state === 'open' || w.state === 'taken on';
  const librarian = may('want.settle');
  const made = useSearchParams()[0].get('part') ?? ''; // a part that was just made for it
  const [asked, setAsk] = useState<'answered' | 'declined' | 'open' | 'nothing'>();
  const ask = asked ?? (made && waits && librarian ? 'answered' : 'nothing');
  const [part, setPart] = useState(made);
  const rows: [string, React.ReactNode][] = [
    ['Facts', w.said.facts],
    ['Maker’s number', [w.said.manufacturer, w.said.mpn].filter(Boolean).join(' ')],
    ['Link', w.said.link && <a className="underline" href={w.said.link} target="_blank" rel="noreferrer noopener">{w.said.link}</a>], // prettier-ignore
    ['For the board', w.said.board],
    ['Needed by', w.said.by],
    ['How many', w.said.quantity?.toLocaleString('en')],
    ['Note', w.said.note],
    ['Wanted by', `${w.by}, ${new Date(w.asked).toLocaleString()}`],
  ];
  return (
    <>
      <Looked kind="want" id={w.id} number={w.number} what={w.what} />
      <PageHead
        title={
          <>
            {w.number} <span className="font-normal text-soft">{w.what}</span>
          </>
        }
        sub={
          <span className="flex flex-wrap items-center gap-2">
            <State of={w.state} /> {w.takenBy && <span>by {w.takenBy}</span>}
            {w.part && (
              <Link className="underline" to={`/parts/${encodeURIComponent(w.part)}`}>
                {w.part}
              </Link>
            )}
            {w.why && <span>{w.why}</span>}
            {waits && <span>· waits {waited(w.asked)}</span>}
          </span>
        }
      >
        {!w.mine && <WatchButton of="want" about={w.id} name={w.number} />}
        {librarian && w.state === 'open' && (
          <Button disabled={settle.isPending} onClick={() => settle.mutate({ version: w.version, body: { state: 'taken on' } })}>
            Take it on
          </Button>
        )}
        {w.state === 'taken on' && (librarian || w.mine) && (
          <Button disabled={settle.isPending} onClick={() => settle.mutate({ version: w.version, body: { state: 'open' } })}>
            Let go
          </Button>
        )}
        {waits && may('supplier.ask') && (
          <Link
            to={`/suppliers?q=${encodeURIComponent(w.said.mpn || w.said.facts || w.what)}&back=${encodeURIComponent(`/wants/${w.number}`)}`}
            className="inline-flex min-h-7 items-center rounded border border-line bg-sheet px-2.5 text-sm font-medium hover:bg-tint"
          >
            Ask the suppliers
          </Link>
        )}
        {waits && may('part.edit') && (
          <Link
            to={`/parts/new?read=${encodeURIComponent(text(w))}&want=${w.number}`}
            className="inline-flex min-h-7 items-center rounded border border-line bg-sheet px-2.5 text-sm font-medium hover:bg-tint"
          >
            Make a part of it
          </Link>
        )}
        {waits && librarian && (
          <>
            <Button onClick={() => setAsk('declined')}>Decline…</Button>
            <Button look="act" onClick={() => setAsk('answered')}>
              Answer with a part…
            </Button>
          </>
        )}
        {!waits && (w.mine || librarian) && <Button onClick={() => setAsk('open')}>Not what was meant…</Button>}
      </PageHead>
      <div className="grid min-h-0 flex-1 content-start gap-3 overflow-auto p-4 xl:grid-cols-2">
        <div className="space-y-3">
          <Trouble error={settle.error} />
          <Panel title="What is wanted">
            <dl className="grid grid-cols-[8rem_1fr] gap-y-1 text-sm">
              {rows
                .filter(([, v]) => v)
                .map(([k, v]) => (
                  <div key={k} className="contents">
                    <dt className="text-soft">{k}</dt>
                    <dd className="font-semibold break-words">{v}</dd>
                  </div>
                ))}
            </dl>
          </Panel>
          <Talk id={w.id} />
          <Panel title="Trail">
            <ScrollList as="ol" className="max-h-60 space-y-1 text-sm">
              {w.trail?.map((e) => (
                <li key={e.seq} title={e.detail}>
                  <span className="text-xs text-soft">{new Date(e.at).toLocaleString()}</span> {e.says}
                </li>
              ))}
            </ScrollList>
          </Panel>
        </div>
        {w.look && (
          <Panel title="What would do">
            <LookList
              look={w.look}
              onChoose={
                waits && librarian
                  ? (n) => {
                      setPart(n);
                      setAsk('answered');
                    }
                  : undefined
              }
            />
          </Panel>
        )}
      </div>
      {ask !== 'nothing' && <SettleDialog w={w} to={ask} part={part} onClose={() => setAsk('nothing')} />}
    </>
  );
}

function SettleDialog({
  w: now,
  to,
  part: first,
  onClose,
}: {
  w: Want;
  to: 'answered' | 'declined' | 'open';
  part: string;
  onClose: () => void;
}) {
  const [w] = useState(now); // what was looked at
  const [part, setPart] = useState(first);
  const [why, setWhy] = useState('');
  const settle = useSettle(w.id);
  const say = useSay();
  const title = { answered: `Answer ${w.number} with a part`, declined: `Decline ${w.number}`, open: `${w.number} is not what was meant` }[
    to
  ];
  return (
    <Dialog open title={title} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          settle.mutate(
            { version: w.version, body: { state: to, part: to === 'answered' ? part : undefined, why: why || undefined } },
            {
              onSuccess: (x) => {
                say(`${x.number} is ${x.state}.`);
                onClose();
              },
            },
          );
        }}
      >
        {to === 'answered' && (
          <Field label="Part" required maxLength={120} placeholder="EW-R-00045" value={part} onChange={(e) => setPart(e.target.value)} />
        )}
        <Field
          label={to === 'answered' ? 'Remark' : 'Why'}
          required={to !== 'answered'}
          maxLength={500}
          value={why}
          onChange={(e) => setWhy(e.target.value)}
        />
        <Moved was={w} now={now} />
        <Trouble error={settle.error} />
        <Button look="act" type="submit" disabled={settle.isPending}>
          {{ answered: 'Answer', declined: 'Decline', open: 'Open it again' }[to]}
        </Button>
      </form>
    </Dialog>
  );
}
