import { useQuery } from '@tanstack/react-query';
import { Link, useSearchParams } from 'react-router';
import { api, take, type Schemas } from '../../api/client';
import { Chip, Empty, PageHead, Panel, Trouble } from '../../ui/kit';

type Drawer = Schemas['Drawer'];

/** The drawers as a tree, and one drawer's template with what it inherits. */
export function CabinetPage() {
  const cabinet = useQuery({ queryKey: ['cabinet'], queryFn: () => take(api.GET('/api/v1/cabinet')) });
  const [params, setParams] = useSearchParams();
  const drawers = cabinet.data?.drawers ?? [];
  const chosen = drawers.find((d) => d.key === params.get('drawer')) ?? drawers.find((d) => d.leaf);
  if (cabinet.error) return <div className="p-4"><Trouble error={cabinet.error} /></div>; // prettier-ignore
  const inside = (d: Drawer) => drawers.filter((x) => x.path.includes(d.key)).reduce((n, x) => n + x.parts, 0);
  return (
    <>
      <PageHead
        title="Cabinet"
        sub={
          cabinet.data &&
          `Revision ${cabinet.data.revision}: ${drawers.length} drawers, ${cabinet.data.document.parameters.length} parameters. Written as one document: jolly cabinet export, jolly cabinet apply.`
        }
      />
      {drawers.length === 0 ? (
        !cabinet.isPending && (
          <Empty title="There is no cabinet yet">Write one, or begin with the demo’s: jolly cabinet apply demo/cabinet.yaml</Empty>
        )
      ) : (
        <div className="grid min-h-0 flex-1 grid-cols-1 md:grid-cols-[18rem_1fr]">
          <nav aria-label="Drawers" className="min-h-0 overflow-auto border-r border-line bg-ground p-2 text-sm max-md:max-h-48">
            <ul>
              {drawers.map((d) => (
                <li key={d.key} style={{ paddingLeft: `${(d.path.length - 1) * 0.9}rem` }}>
                  <button
                    type="button"
                    aria-current={d.key === chosen?.key}
                    className="flex min-h-6 w-full items-center justify-between rounded px-2 text-left hover:bg-sheet aria-[current=true]:bg-sheet aria-[current=true]:font-semibold"
                    onClick={() => setParams({ drawer: d.key })}
                  >
                    <span>
                      <span aria-hidden="true">{d.leaf ? '▭ ' : '▤ '}</span>
                      {d.label}
                    </span>
                    <span className="text-xs text-soft">{inside(d)}</span>
                  </button>
                </li>
              ))}
            </ul>
          </nav>
          {chosen && (
            <div className="min-h-0 space-y-3 overflow-auto p-4">
              <Panel
                title={chosen.label}
                actions={
                  chosen.leaf && (
                    <Link className="text-sm underline" to={`/parts?drawer=${chosen.key}`}>
                      {chosen.parts} parts
                    </Link>
                  )
                }
              >
                <dl className="grid grid-cols-[10rem_1fr] gap-y-1 text-sm">
                  {[
                    ['Key', chosen.key],
                    ['Lies in', chosen.path.slice(0, -1).join(' / ') || 'the cabinet itself'],
                    [
                      'Part numbers',
                      chosen.prefix
                        ? `${chosen.prefix}-${'0'.repeat(Math.max(0, chosen.digits - 1))}1`
                        : 'none: a drawer inside gives them',
                    ],
                    ['Designator', chosen.designator],
                    ['Leading parameter', chosen.leading],
                    ['Description', chosen.description],
                    ['Identified by', chosen.identity.join(', ')],
                  ].map(
                    ([k, v]) =>
                      v && (
                        <div key={k} className="contents">
                          <dt className="text-soft">{k}</dt>
                          <dd className={k === 'Description' ? 'font-mono text-xs' : ''}>{v}</dd>
                        </div>
                      ),
                  )}
                </dl>
              </Panel>
              <Panel title="Template">
                <table className="w-full text-sm">
                  <thead>
                    <tr className="text-left text-xs text-soft">
                      <th className="py-1">Parameter</th>
                      <th>Type</th>
                      <th>Unit</th>
                      <th></th>
                      <th>From</th>
                      <th>Choices</th>
                    </tr>
                  </thead>
                  <tbody>
                    {chosen.slots.map((s) => (
                      <tr key={s.key} className="border-t border-line/60">
                        <th scope="row" className="py-1 pr-2 text-left font-medium">
                          {s.label} {s.key === chosen.leading && <Chip tone="plain">leading</Chip>}
                        </th>
                        <td className="pr-2">{s.of ?? s.type}</td>
                        <td className="pr-2">{s.unit}</td>
                        <td className="pr-2">
                          {s.required && <Chip tone="open">required</Chip>} {s.byHand && <Chip>by hand</Chip>}
                        </td>
                        <td className={s.inherited ? 'text-soft' : 'font-semibold'}>{s.inherited ? `↑ ${s.from}` : 'here'}</td>
                        <td className="text-xs">{s.choices.join(', ')}</td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              </Panel>
            </div>
          )}
        </div>
      )}
    </>
  );
}
