import type { Cost } from './queries';

/** How far a BOM is from a board that can be built: of how many of its lines each holds. */
export function Ready({ cost }: { cost: Cost }) {
  const r = cost.ready;
  const rows = [
    ['Linked to a record', r.linked],
    ['Released, without a flag', r.released],
    ['A source in production', r.production],
    ['Several sources', r.several],
    [`In stock for ${cost.boards === 1 ? '1 board' : `${cost.boards.toLocaleString('en')} boards`}`, r.inStock],
    ['Models complete', r.models],
    ['Datasheet', r.datasheet],
  ] as const;
  return (
    <table className="w-full text-sm">
      <caption className="text-left text-xs font-semibold text-soft">
        Ready, of {r.lines === 1 ? '1 line that is' : `${r.lines} lines that are`} fitted
      </caption>
      <tbody>
        {rows.map(([what, n]) => {
          const all = n === r.lines;
          return (
            <tr key={what}>
              <th scope="row" className="py-0.5 pr-2 text-left font-normal whitespace-nowrap">
                {what}
              </th>
              <td className="pr-2 text-right whitespace-nowrap tabular-nums">
                {n} <span aria-hidden="true">{all ? '●' : n === 0 ? '▲' : '◐'}</span>
                <span className="sr-only">{all ? 'all' : n === 0 ? 'none' : 'some'}</span>
              </td>
              <td className="w-1/2">
                <div className="h-2.5 overflow-hidden rounded-sm bg-tint" aria-hidden="true">
                  <div
                    className={`h-full ${all ? 'bg-moss' : n === 0 ? '' : 'bg-amber'}`}
                    style={{ width: `${String(r.lines ? (100 * n) / r.lines : 0)}%` }}
                  />
                </div>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
