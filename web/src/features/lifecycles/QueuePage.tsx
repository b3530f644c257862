import { useNavigate, useSearchParams } from 'react-router';
import { type Schemas } from '../../api/client';
import { Asked } from '../../ui/asked';
import { Button, Chip, Empty, LifeState, PageHead } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';
import { waited } from '../../ui/waited';
import { useQueue } from './queries';

type Item = Schemas['QueueItem'];

const columns: Column<Item>[] = [
  { key: 'since', head: 'Waits', width: 80, cell: (i) => waited(i.since) },
  { key: 'number', head: 'Thing', width: 190, cell: (i) => i.number },
  { key: 'what', head: 'What', width: 200, grow: true, cell: (i) => i.what },
  { key: 'state', head: 'State', width: 160, cell: (i) => <LifeState of={i.state} /> },
  { key: 'by', head: 'Changed by', width: 120, cell: (i) => i.authors.join(', ') },
  { key: 'for', head: 'For', width: 120, cell: (i) => i.groups.join(', ') },
  {
    key: 'taken',
    head: 'At it',
    width: 125,
    cell: (i) => (i.takenByMe ? <Chip tone="plain">you</Chip> : (i.taken ?? (i.mine ? <span className="text-soft">yours</span> : ''))),
  },
];

/** What waits for a second person, what waits longest first. */
export function QueuePage() {
  const [params, setParams] = useSearchParams();
  const all = params.get('all') !== null;
  const queue = useQueue(!all);
  const navigate = useNavigate();
  return (
    <>
      <PageHead title="Queue" sub={all ? 'Everything that waits for a review' : 'What waits for you and your groups'}>
        <Button onClick={() => setParams(all ? {} : { all: '' })}>{all ? 'Only what is mine' : 'Show everything'}</Button>
      </PageHead>
      <Asked of={queue}>
        {(q) =>
          q.items.length === 0 ? (
            <Empty title={all ? 'Nothing waits for a review' : 'Nothing waits for you'}>
              {all ? (
                <p>A part, model or BOM comes here when somebody moves it to a state that means in review: open it and ask for a review.</p>
              ) : (
                <p>What you changed yourself waits for somebody else. “Show everything” shows it.</p>
              )}
            </Empty>
          ) : (
            <>
              <p role="status" className="border-b border-line px-4 py-1 text-sm text-soft">
                {q.page.total === 1 ? '1 thing waits' : `${q.page.total} things wait`}
              </p>
              <DataTable
                label="Queue"
                rows={q.items}
                columns={columns}
                rowKey={(i) => i.id}
                onOpen={(i) => void navigate(`/review/${i.id}${all ? '?all' : ''}`)}
              />
            </>
          )
        }
      </Asked>
    </>
  );
}
