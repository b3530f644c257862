import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api, based, take, type Schemas } from '../../api/client';
import { useAct } from '../../api/write';
import { Asked } from '../../ui/asked';
import { Button, Chip, Empty, PageHead, Panel, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useLooked } from '../../ui/looked';
import { pageOfThing } from '../../ui/pages';
import { waited } from '../../ui/waited';
import { useCabinet } from '../cabinet/queries';
import { useMay } from '../people';

type Item = Schemas['WorkItem'];

/** Where a thing that waits is worked on. */
function address(i: Item): string {
  switch (i.kind) {
    case 'review':
      return `/review/${i.id}`;
    case 'bom': // by its name, as people know it
      return `/boms/${encodeURIComponent(i.name)}`;
    case 'notice':
      return '/notices';
    case 'job': // those that are about nothing else change templates
      return '/cabinet';
  }
  return pageOfThing({ ...i, number: i.name }) ?? '/parts';
}

/** How much waits of a kind, or how much at least. */
const much = (k: Schemas['WorkKind']) => k.total.toLocaleString('en') + (k.atLeast ? ' or more' : '');

/** Where all of a kind are listed. */
const all: Record<string, string> = {
  reviews: '/queue',
  notices: '/notices',
  wants: '/wants',
  answered: '/wants?state=all&mine',
  intakes: '/intakes',
  drafts: '/parts?status=draft',
  boms: '/boms',
};

/** The page that opens first: what waits for whoever is here. */
export function WorklistPage() {
  const list = useQuery({ queryKey: ['worklist'], queryFn: () => take(api.GET('/api/v1/worklist')) });
  const cabinet = useCabinet();
  const looked = useLooked();
  const empty = cabinet.data !== undefined && cabinet.data.drawers.length === 0;
  return (
    <>
      <PageHead title="Worklist" sub={empty ? 'From nothing to a first part' : 'What waits for you and your groups'} />
      {empty ? (
        <FirstSteps version={cabinet.data?.version ?? 0} />
      ) : (
        <Asked of={list}>
          {(w) =>
            w.kinds.length + looked.length === 0 ? (
              <Empty title="Nothing waits for you">Look something up: / goes to the search box.</Empty>
            ) : (
              <div className="min-h-0 flex-1 overflow-auto p-4">
                <div className="gap-3 *:mb-3 *:break-inside-avoid lg:columns-2">
                  {w.kinds.map((k) => (
                    <Panel
                      key={k.key}
                      title={`${k.title} (${much(k)})`}
                      actions={
                        k.total > k.items.length && (
                          <Link className="text-sm underline" to={all[k.key] ?? '/parts'}>
                            All {much(k)}
                          </Link>
                        )
                      }
                    >
                      {k.problem && <Trouble error={new Error(k.problem)} />}
                      {k.empty && <p className="text-sm text-soft">{k.empty}</p>}
                      <ul className="text-sm">
                        {k.items.map((i) => (
                          <li key={i.id} className="flex flex-wrap items-baseline gap-2 border-t border-line/60 py-1 first:border-t-0">
                            <Link className="min-w-24 font-semibold underline" to={address(i)}>
                              {i.name}
                            </Link>
                            <span className="min-w-32 flex-1">{i.what}</span>
                            <span className="ml-auto flex min-w-0 flex-wrap items-baseline justify-end gap-x-2">
                              {i.remark && <Chip tone="open">{i.remark}</Chip>}
                              <span className="w-16 text-right text-xs text-soft">{waited(i.since)}</span>
                            </span>
                          </li>
                        ))}
                      </ul>
                    </Panel>
                  ))}
                  {looked.length > 0 && (
                    <Panel title="Looked at last">
                      <ul className="text-sm">
                        {looked.map((s) => (
                          <li key={s.id} className="flex flex-wrap items-baseline gap-2 border-t border-line/60 py-1 first:border-t-0">
                            <Link className="min-w-24 font-semibold underline" to={pageOfThing(s) ?? '/parts'}>
                              {s.number}
                            </Link>
                            <span className="min-w-32 flex-1">{s.what}</span>
                            <span className="ml-auto w-16 text-right text-xs text-soft">{waited(new Date(s.at).toISOString())}</span>
                          </li>
                        ))}
                      </ul>
                    </Panel>
                  )}
                </div>
              </div>
            )
          }
        </Asked>
      )}
    </>
  );
}

/** The steps of an empty library: drawers, people, a file. */
function FirstSteps({ version }: { version: number }) {
  const may = useMay();
  const queries = useQueryClient();
  const say = useSay();
  const starter = useAct({
    mutationFn: () =>
      take(
        api.PUT('/api/v1/cabinet', { params: { header: based(version) }, body: { text: 'format: jolly-cabinet/1\nbuiltOn: starter\n' } }),
      ),
    onSuccess: (c) => {
      say(`The starter cabinet is in force: ${c.drawers.length} drawers.`);
      return queries.invalidateQueries();
    },
  });
  return (
    <ol className="m-4 max-w-3xl list-decimal space-y-3 rounded border border-line bg-sheet p-4 pl-9 text-sm">
      <li>
        <strong>Choose the drawers.</strong> Each kind of part lies in a drawer, whose template says which parameters its parts have. The
        starter cabinet has some eighty drawers; you change them later as you like.
        <div className="mt-1">
          <Trouble error={starter.error} />
          {may('cabinet.apply') ? (
            <Button look="act" disabled={starter.isPending} onClick={() => starter.mutate()}>
              Take the starter cabinet
            </Button>
          ) : (
            <span className="text-soft">A librarian does this.</span>
          )}
        </div>
      </li>
      <li>
        <strong>Add people.</strong>{' '}
        <Link className="underline" to="/people">
          People
        </Link>{' '}
        has accounts and groups: engineers change parts, librarians release them.
      </li>
      <li>
        <strong>Bring in a file.</strong> A supplier’s export or an old list, as it is:{' '}
        <Link className="underline" to="/intakes">
          open an intake
        </Link>
        . Or{' '}
        <Link className="underline" to="/parts/new">
          make one part
        </Link>{' '}
        from a pasted text.
      </li>
    </ol>
  );
}
