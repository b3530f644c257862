import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { Asked } from '../../ui/asked';
import { Button, Dialog, Empty, Field, PageHead, State, Trouble } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { useSay } from '../../ui/toast';
import { Offer, useTyped } from '../../ui/unsaved';
import { waited } from '../../ui/waited';
import { useMay } from '../people';
import { LookList } from './LookList';
import { useLook, useMakeWant, useWants, type Said, type Want } from './queries';

const columns: Column<Want>[] = [
  { key: 'number', head: 'Want', width: 90, cell: (w) => <span className="font-semibold">{w.number}</span> },
  { key: 'waits', head: 'Waits', width: 80, cell: (w) => waited(w.asked) },
  { key: 'what', head: 'What', width: 240, grow: true, cell: (w) => <span title={w.what}>{w.what}</span> },
  { key: 'board', head: 'For', width: 150, cell: (w) => w.said.board ?? '' },
  { key: 'by', head: 'Needed', width: 100, cell: (w) => w.said.by ?? '' },
  { key: 'quantity', head: 'How many', width: 85, align: 'right', cell: (w) => w.said.quantity?.toLocaleString('en') ?? '' },
  { key: 'who', head: 'Wanted by', width: 130, cell: (w) => w.by },
  { key: 'state', head: 'State', width: 110, cell: (w) => <State of={w.state} /> },
  { key: 'at', head: 'At it', width: 120, cell: (w) => w.takenBy ?? '' },
];

/** What people need and the library lacks, what waits longest first. */
export function WantsPage() {
  const [params, setParams] = useSearchParams();
  const state = params.get('state') ?? 'waiting';
  const mine = params.get('mine') !== null;
  const wants = useWants(state === 'all' ? '' : state, mine);
  const navigate = useNavigate();
  const may = useMay();
  const [asking, setAsking] = useState(false);
  const set = (next: { state?: string; mine?: boolean }) => {
    const p = new URLSearchParams();
    const s = next.state ?? state;
    if (s !== 'waiting') p.set('state', s);
    if (next.mine ?? mine) p.set('mine', '');
    setParams(p);
  };
  const counts = wants.data?.counts ?? {};
  return (
    <>
      <PageHead
        title="Wants"
        sub={`${(counts.open ?? 0).toLocaleString('en')} open · ${(counts['taken on'] ?? 0).toLocaleString('en')} taken on · ${(counts.answered ?? 0).toLocaleString('en')} answered · ${(counts.declined ?? 0).toLocaleString('en')} declined`}
      >
        <label className="flex items-center gap-1 text-sm">
          <span className="text-soft">Show</span>
          <select
            className="min-h-7 rounded border border-line bg-sheet px-1 text-sm"
            value={state}
            onChange={(e) => set({ state: e.target.value })}
          >
            <option value="waiting">what waits</option>
            <option value="answered">answered</option>
            <option value="declined">declined</option>
            <option value="all">all</option>
          </select>
        </label>
        <Button aria-pressed={mine} onClick={() => set({ mine: !mine })}>
          {mine ? '☑' : '☐'} Only mine
        </Button>
        {may('want.make') && (
          <Button look="act" onClick={() => setAsking(true)}>
            Want something…
          </Button>
        )}
      </PageHead>
      <Asked of={wants}>
        {(l) =>
          l.items.length === 0 ? (
            <Empty title={state === 'waiting' ? 'Nothing is wanted' : 'No want is in this state'}>
              <p>
                When the library lacks a part, say what it must be: facts as in the search box, or a maker’s number. The lines that a{' '}
                <Link className="underline" to="/boms">
                  BOM
                </Link>{' '}
                lacks are wanted in one step there.
              </p>
            </Empty>
          ) : (
            <DataTable
              label="Wants"
              rows={l.items}
              columns={columns}
              rowKey={(w) => w.id}
              onOpen={(w) => void navigate(`/wants/${w.number}`)}
            />
          )
        }
      </Asked>
      {asking && <WantDialog onClose={() => setAsking(false)} />}
    </>
  );
}

function WantDialog({ onClose }: { onClose: () => void }) {
  const [said, setSaid] = useState<Said>({});
  const look = useLook(said);
  const make = useMakeWant();
  const say = useSay();
  const { kept, typed, settled } = useTyped<Said>('want', 0);
  const set = (next: Said) => {
    setSaid(next);
    typed(next);
  };
  const text = (key: 'facts' | 'manufacturer' | 'mpn' | 'link' | 'board' | 'by' | 'note') => ({
    value: said[key] ?? '',
    onChange: (e: { target: { value: string } }) => set({ ...said, [key]: e.target.value || undefined }),
  });
  return (
    <Dialog open wide title="What is wanted" onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          make.mutate(said, {
            onSuccess: (m) => {
              say(`${m.numbers[0] ?? 'It'} is kept: librarians see it now.`);
              settled();
              onClose();
            },
          });
        }}
      >
        <Offer kept={kept} version={0} what="a want" onDrop={settled} onTake={(k) => setSaid(k.value)} />
        <Field label="Facts" hint="As in the search box: 4k7 0402 0.1%" data-first="" maxLength={500} {...text('facts')} />
        <div className="grid grid-cols-2 gap-2">
          <Field label="Maker’s number" maxLength={200} {...text('mpn')} />
          <Field label="Manufacturer" maxLength={200} {...text('manufacturer')} />
        </div>
        <Field label="Link" type="url" placeholder="https://" maxLength={1000} {...text('link')} />
        <div className="grid grid-cols-3 gap-2">
          <Field label="For the board" maxLength={120} {...text('board')} />
          <Field label="Needed by" type="date" {...text('by')} />
          <Field
            label="How many"
            type="number"
            min={1}
            value={said.quantity ?? ''}
            onChange={(e) => set({ ...said, quantity: e.target.value ? Number(e.target.value) : undefined })}
          />
        </div>
        <Field label="Note" maxLength={500} {...text('note')} />
        {look.data && <LookList look={look.data} />}
        <Trouble error={make.error ?? look.error} />
        <Button look="act" type="submit" disabled={make.isPending}>
          Want it
        </Button>
      </form>
    </Dialog>
  );
}
