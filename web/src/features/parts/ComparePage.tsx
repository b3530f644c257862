import { Link, useSearchParams } from 'react-router';
import { Chip, Empty, PageHead, Trouble } from '../../ui/kit';
import { useComparison } from './queries';

/** Two to six parts side by side: what differs stands out, and what is best where more or less is better. */
export function ComparePage() {
  const [params, setParams] = useSearchParams();
  const numbers = params.getAll('part');
  const same = params.get('same') !== 'no';
  const comparison = useComparison(numbers);
  const c = comparison.data;
  const rows = c?.rows.filter((r) => same || r.differs) ?? [];
  return (
    <>
      <PageHead
        title="Comparison"
        sub={c && `${c.parts.length} parts; ${c.rows.filter((r) => r.differs).length} of ${c.rows.length} rows differ`}
      >
        <label className="flex items-center gap-2 text-sm">
          <input
            type="checkbox"
            checked={!same}
            onChange={() => setParams((p) => (p.has('same') ? p.delete('same') : p.set('same', 'no'), p))}
          />
          only what differs
        </label>
      </PageHead>
      <div className="min-h-0 flex-1 overflow-auto p-4">
        <Trouble error={comparison.error} />
        {numbers.length < 2 && (
          <Empty title="Nothing to compare yet">
            Select two to six parts in the{' '}
            <Link className="underline" to="/parts">
              list
            </Link>{' '}
            and choose Compare.
          </Empty>
        )}
        {c && (
          <table className="w-full text-sm">
            <thead>
              <tr className="text-left">
                <th className="sticky left-0 bg-ground py-1 pr-3 text-xs font-semibold text-soft">Parameter</th>
                {c.parts.map((p) => (
                  <th key={p.id} className="px-3 py-1">
                    <Link className="underline" to={`/parts/${encodeURIComponent(p.number)}`}>
                      {p.number}
                    </Link>
                    {c.parts.length > 2 && (
                      <button
                        type="button"
                        aria-label={`Leave ${p.number} out`}
                        className="ml-1 min-h-6 rounded px-1 font-normal hover:bg-tint"
                        onClick={() =>
                          setParams((was) => {
                            const next = was.getAll('part').filter((n) => n !== p.number);
                            was.delete('part');
                            next.forEach((n) => was.append('part', n));
                            return was;
                          })
                        }
                      >
                        ✕
                      </button>
                    )}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map((r) => (
                <tr key={r.key} className={`border-t border-line/60 ${r.differs ? 'bg-amber-tint' : 'bg-sheet'}`}>
                  <th scope="row" className="sticky left-0 bg-inherit py-1 pr-3 pl-2 text-left font-medium text-soft">
                    {r.differs ? '≠ ' : ''}
                    {r.label}
                    {r.better && <span className="block text-xs font-normal">{r.better} is better</span>}
                  </th>
                  {r.values.map((v, i) => (
                    <td key={i} className={`px-3 py-1 ${r.differs ? 'font-semibold' : ''}`}>
                      {v || <span className="font-normal text-soft">blank</span>} {r.best.includes(i) && <Chip tone="good">best</Chip>}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </div>
    </>
  );
}
