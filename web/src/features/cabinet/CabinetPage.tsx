import { useSearchParams } from 'react-router';
import { Stale } from '../../ui/asked';
import { Empty, PageHead, Trouble } from '../../ui/kit';
import { DrawerView } from './DrawerView';
import { useCabinet, type Drawer } from './queries';

/** The drawers as a tree, and one drawer's template with what it inherits. */
export function CabinetPage() {
  const cabinet = useCabinet();
  const [params, setParams] = useSearchParams();
  const drawers = cabinet.data?.drawers ?? [];
  const chosen = drawers.find((d) => d.key === params.get('drawer')) ?? drawers.find((d) => d.leaf);
  if (cabinet.error && !cabinet.data) return <div className="p-4"><Trouble error={cabinet.error} /></div>; // prettier-ignore
  const inside = (d: Drawer) => drawers.filter((x) => x.path.includes(d.key)).reduce((n, x) => n + x.parts, 0);
  return (
    <>
      <Stale of={cabinet} />
      <PageHead
        title="Cabinet"
        sub={
          cabinet.data &&
          `Revision ${cabinet.data.revision}: ${drawers.length} drawers, ${cabinet.data.document.parameters.length} parameters. Written as one document: jolly cabinet export, jolly cabinet apply.`
        }
      />
      {drawers.length === 0 ? (
        cabinet.isSuccess && (
          <Empty title="There is no cabinet yet">
            Begin with the starter cabinet: jolly cabinet starter &gt; cabinet.yaml, then jolly cabinet apply cabinet.yaml
          </Empty>
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
                    className="flex min-h-6 w-full items-center justify-between gap-2 rounded px-2 text-left hover:bg-sheet aria-[current=true]:bg-sheet aria-[current=true]:font-semibold"
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
          {chosen && cabinet.data && <DrawerView key={chosen.key} cabinet={cabinet.data} drawer={chosen} />}
        </div>
      )}
    </>
  );
}
