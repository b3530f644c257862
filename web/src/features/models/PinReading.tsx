import type { Schemas } from '../../api/client';
import { Panel, Select } from '../../ui/kit';

type Columns = Schemas['ModelPinColumns'];
type Taken = Pick<Schemas['SymbolTried'], 'columns' | 'headings' | 'list' | 'lists'>;

/** What somebody chose of a pin table: one of several lists, or which column holds what. */
export interface Choice {
  list?: string;
  columns?: Columns;
}

/** How a pin table was taken: which of several lists, and which column holds what. Both can be chosen otherwise. */
export function Reading({ r, choice, onChoose }: { r: Taken; choice: Choice; onChoose: (c: Choice) => void }) {
  const onList = (name: string) => onChoose({ ...choice, list: name });
  const onColumns = (c: Columns) => onChoose({ columns: c });
  const columns = r.columns;
  const single = [
    ['Names', 'name'],
    ['Types', 'type'],
    ['Groups', 'unit'],
    ['Sides', 'side'],
  ] as const;
  if (r.lists.length === 0 && !columns) return null;
  return (
    <Panel title="How the table was taken">
      <div className="flex flex-wrap items-end gap-3 text-sm">
        {r.lists.length > 1 && (
          <Select label="Package or component" value={r.list ?? ''} onChange={(e) => onList(e.target.value)}>
            <option value="">choose one…</option>
            {r.lists.map((n) => (
              <option key={n}>{n}</option>
            ))}
          </Select>
        )}
        {columns && (
          <>
            <Select
              label="Numbers"
              value={columns.numbers.length === 1 ? String(columns.numbers[0]) : ''}
              onChange={(e) => onColumns({ ...columns, numbers: e.target.value === '' ? [] : [Number(e.target.value)] })}
            >
              <option value="">{columns.numbers.map((i) => r.headings[i]).join(', ') || '–'}</option>
              {r.headings.map((h, i) => (
                <option key={i} value={i}>
                  {h}
                </option>
              ))}
            </Select>
            {single.map(([label, key]) => (
              <Select
                key={key}
                label={label}
                value={String(columns[key])}
                onChange={(e) => onColumns({ ...columns, [key]: Number(e.target.value) })}
              >
                <option value="-1">–</option>
                {r.headings.map((h, i) => (
                  <option key={i} value={i}>
                    {h}
                  </option>
                ))}
              </Select>
            ))}
          </>
        )}
      </div>
      {r.lists.length > 1 && !r.list && (
        <p className="mt-2 text-sm text-amber">▲ The table holds the pins of several: choose whose pins these are.</p>
      )}
    </Panel>
  );
}
