import { useQuery } from '@tanstack/react-query';
import { useNavigate, useSearchParams } from 'react-router';
import { api, take, type Schemas } from '../../api/client';
import { Asked } from '../../ui/asked';
import { Chip, Dialog, Empty, PageHead, Trouble } from '../../ui/kit';
import { DataTable, type Column } from '../../ui/table';

type Drawer = Schemas['ReadoutDrawer'];

/** Which tables design tools find, under which names, and what is in them. */
export function ReadoutPage() {
  const readout = useQuery({ queryKey: ['readout'], queryFn: () => take(api.GET('/api/v1/readout')), refetchInterval: waiting });
  const [params] = useSearchParams();
  const navigate = useNavigate();
  const columns: Column<Drawer>[] = [
    { key: 'view', head: 'View', width: 220, cell: (d) => <span className="font-mono">{d.view}</span> },
    { key: 'label', head: 'Drawer', width: 200, grow: true, cell: (d) => d.label },
    { key: 'columns', head: 'Columns', width: 90, align: 'right', cell: (d) => (readout.data?.fixed.length ?? 0) + d.columns.length },
    {
      key: 'state',
      head: 'State',
      width: 130,
      cell: (d) => <Chip tone={d.ready ? 'good' : 'calm'}>{d.ready ? 'ready' : 'being made'}</Chip>,
    },
    { key: 'notes', head: 'Remark', width: 380, cell: (d) => <span title={d.notes.join(' ')}>{d.notes[0]}</span> },
  ];
  return (
    <>
      <PageHead
        title="Readout"
        sub="What design tools find when they read the library as SQL tables: released parts, a view for each drawer"
      />
      <Asked of={readout}>
        {(r) => {
          const chosen = r.drawers.find((d) => d.drawer === params.get('drawer'));
          if (!r.on)
            return (
              <Empty title="No tables are kept">
                <p>
                  The service has no account to make them with: start it with --readout-dsn. <code>jolly grants</code> prints what that
                  account needs.
                </p>
              </Empty>
            );
          return (
            <>
              <Trouble error={r.problem ? new Error(`The tables could not be kept lately: ${r.problem}`) : undefined} />
              <p role="status" className="border-b border-line px-4 py-1 text-sm">
                Schema <code className="font-mono font-semibold">{r.schema}</code> · sign in as {r.account}
              </p>
              <DataTable
                label="Views"
                rows={r.drawers}
                columns={columns}
                rowKey={(d) => d.drawer}
                onOpen={(d) => void navigate(`?drawer=${d.drawer}`)}
              />
              {chosen && <Columns d={chosen} fixed={r.fixed} onClose={() => void navigate('.')} />}
            </>
          );
        }}
      </Asked>
    </>
  );
}

/** While a view is being made it is asked for again. */
function waiting(q: { state: { data?: Schemas['Readout'] } }) {
  const r = q.state.data;
  return r?.on && r.drawers.some((d) => !d.ready) ? 1500 : false;
}

function Columns({ d, fixed, onClose }: { d: Drawer; fixed: Schemas['ReadoutColumn'][]; onClose: () => void }) {
  return (
    <Dialog title={`Columns of ${d.view}`} open wide onClose={onClose}>
      {d.notes.map((n) => (
        <p key={n} className="mb-2 text-sm text-warn">
          {n}
        </p>
      ))}
      <div>
        <table className="w-full text-sm">
          <thead className="sticky top-0 bg-sheet">
            <tr className="text-left text-xs text-soft">
              <th className="py-1 pr-3">Column</th>
              <th className="pr-3">Type</th>
              <th className="pr-3">Says</th>
              <th>Sorting</th>
            </tr>
          </thead>
          <tbody>
            {[...fixed, ...d.columns].map((c) => (
              <tr key={c.name} className="border-t border-line/60">
                <td className="py-1 pr-3 font-mono">{c.name}</td>
                <td className="pr-3 text-xs text-soft">{c.type ?? 'TEXT'}</td>
                <td className="pr-3">{c.says}</td>
                <td>{c.indexed && <Chip tone="good">quick</Chip>}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Dialog>
  );
}
