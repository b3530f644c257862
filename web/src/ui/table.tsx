import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';

export interface Column<Row> {
  key: string;
  head: string;
  width: number;
  grow?: boolean;
  align?: 'right';
  sortable?: boolean;
  cell: (row: Row) => ReactNode;
}

interface Props<Row> {
  label: string;
  rows: Row[];
  /** How many rows there are in all; rows beyond those at hand are asked for by onEnd. */
  total?: number;
  columns: Column<Row>[];
  rowKey: (row: Row) => string;
  onOpen?: (row: Row) => void;
  sort?: { key: string; down: boolean };
  onSort?: (key: string) => void;
  selected?: ReadonlySet<string>;
  onSelect?: (keys: Set<string>) => void;
  onEnd?: () => void;
  empty?: ReactNode;
}

const height = 30;

/**
 * A windowed table: only the rows in view are drawn. Arrows move, Enter opens, Space selects. Column heads sort.
 */
export function DataTable<Row>({
  label,
  rows,
  total,
  columns,
  rowKey,
  onOpen,
  sort,
  onSort,
  selected,
  onSelect,
  onEnd,
  empty,
}: Props<Row>) {
  const scroller = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState(0);
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing of it is memoized here
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 12,
  });
  const items = virtual.getVirtualItems();
  const last = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if (onEnd && total !== undefined && rows.length < total && last > rows.length - 40) onEnd();
  }, [last, rows.length, total, onEnd]);

  const toggle = (row: Row) => {
    if (!onSelect) return;
    const next = new Set(selected);
    const key = rowKey(row);
    if (!next.delete(key)) next.add(key);
    onSelect(next);
  };
  const move = (to: number) => {
    const i = Math.max(0, Math.min(rows.length - 1, to));
    setAt(i);
    virtual.scrollToIndex(i);
  };
  const onKeyDown = (e: KeyboardEvent) => {
    if (e.target !== e.currentTarget) return;
    const steps: Record<string, number> = {
      ArrowDown: at + 1,
      ArrowUp: at - 1,
      PageDown: at + 20,
      PageUp: at - 20,
      Home: 0,
      End: rows.length - 1,
    };
    const row = rows[at];
    const to = steps[e.key];
    if (to !== undefined) move(to);
    else if (e.key === 'Enter' && row && onOpen) onOpen(row);
    else if (e.key === ' ' && row) toggle(row);
    else return;
    e.preventDefault();
  };

  const grid = (onSelect ? '32px ' : '') + columns.map((c) => (c.grow ? `minmax(${c.width}px,1fr)` : `${c.width}px`)).join(' ');
  const all = rows.length > 0 && selected?.size === rows.length;
  return (
    // A grid is worked with the keyboard as a whole; its active row is told to assistive technology by its id.
    <div
      ref={scroller}
      role="grid"
      aria-label={label}
      aria-rowcount={(total ?? rows.length) + 1}
      aria-activedescendant={rows[at] ? `row-${rowKey(rows[at])}` : undefined}
      tabIndex={0}
      onKeyDown={onKeyDown}
      className="h-full min-h-0 overflow-auto"
    >
      <div role="row" className="sticky top-0 z-10 grid min-w-max border-b border-line bg-tint" style={{ gridTemplateColumns: grid }}>
        {onSelect && (
          <div role="columnheader" className="flex items-center justify-center">
            <input
              type="checkbox"
              aria-label="Select all rows"
              checked={all}
              onChange={() => onSelect(all ? new Set() : new Set(rows.map(rowKey)))}
            />
          </div>
        )}
        {columns.map((c) => {
          const now = sort?.key === c.key;
          return (
            <div
              key={c.key}
              role="columnheader"
              aria-sort={now ? (sort.down ? 'descending' : 'ascending') : undefined}
              className={`truncate px-2 py-1 text-xs font-semibold text-soft ${c.align === 'right' ? 'text-right' : ''}`}
            >
              {c.sortable && onSort ? (
                <button type="button" className="font-semibold hover:text-ink" onClick={() => onSort(c.key)}>
                  {c.head}
                  {now ? (sort.down ? ' ▼' : ' ▲') : ''}
                </button>
              ) : (
                c.head
              )}
            </div>
          );
        })}
      </div>
      {rows.length === 0 && empty}
      <div className="relative min-w-max" style={{ height: virtual.getTotalSize() }}>
        {items.map((v) => {
          const row = rows[v.index];
          if (row === undefined) return null;
          const key = rowKey(row);
          const on = selected?.has(key);
          return (
            // Keys are handled by the grid.
            // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/interactive-supports-focus
            <div
              key={key}
              id={`row-${key}`}
              role="row"
              aria-rowindex={v.index + 2}
              aria-selected={onSelect ? (on ?? false) : undefined}
              onClick={() => {
                setAt(v.index);
                onOpen?.(row);
              }}
              className={`absolute left-0 grid w-full items-center border-b border-line/60 text-sm ${onOpen ? 'cursor-pointer' : ''} ${on ? 'bg-amber-tint' : v.index === at ? 'bg-tint' : 'bg-sheet hover:bg-tint'}`}
              style={{ transform: `translateY(${v.start}px)`, height, gridTemplateColumns: grid }}
            >
              {onSelect && (
                <div role="gridcell" className="flex items-center justify-center">
                  <input
                    type="checkbox"
                    aria-label={`Select row ${v.index + 1}`}
                    checked={on ?? false}
                    onClick={(e) => e.stopPropagation()}
                    onChange={() => toggle(row)}
                  />
                </div>
              )}
              {columns.map((c) => (
                <div key={c.key} role="gridcell" className={`truncate px-2 ${c.align === 'right' ? 'text-right' : ''}`}>
                  {c.cell(row)}
                </div>
              ))}
            </div>
          );
        })}
      </div>
    </div>
  );
}
