import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useId, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';

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
  /** The rows at hand; a hole is a row that is still being asked for. */
  rows: readonly (Row | undefined)[];
  /** How many rows there are in all, holes included; the rows in view are asked for by onView. */
  total?: number;
  /** Headings that stand before the row of an index. */
  headings?: { at: number; text: ReactNode }[];
  columns: Column<Row>[];
  rowKey: (row: Row) => string;
  onOpen?: (row: Row) => void;
  /** Told which row is active, by arrows or by a click; a click then no longer opens, a double click does. */
  onActive?: (row: Row | undefined) => void;
  sort?: { key: string; down: boolean };
  onSort?: (key: string) => void;
  selected?: ReadonlySet<string>;
  onSelect?: (keys: Set<string>) => void;
  onView?: (first: number, last: number) => void;
  empty?: ReactNode;
}

const height = 30;

/**
 * A windowed table: only the rows in view are drawn. It is one stop of the Tab key. Arrows move, Enter opens, Space selects; above
 * the first row lie the heads: arrows move along them, Enter or Space sorts, or selects all.
 */
export function DataTable<Row>({
  label,
  rows,
  total = rows.length,
  headings = [],
  columns,
  rowKey,
  onOpen,
  onActive,
  sort,
  onSort,
  selected,
  onSelect,
  onView,
  empty,
}: Props<Row>) {
  // Lines are rows and headings together: heading h stands at line headings[h].at + h.
  const lines = total + headings.length;
  const lineOf = (row: number) => row + headings.filter((h) => h.at <= row).length;
  const rowOf = (line: number) => {
    let before = 0;
    for (const h of headings) {
      if (h.at + before === line) return { heading: h };
      if (h.at + before > line) break;
      before++;
    }
    return { row: line - before };
  };
  const scroller = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState(0);
  const [head, setHead] = useState<number>(); // which head the keyboard is on; none: on a row
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing of it is memoized here
  const virtual = useVirtualizer({
    count: lines,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 12,
  });
  const items = virtual.getVirtualItems();
  const first = rowOf(items.at(0)?.index ?? 0).row ?? 0;
  const last = rowOf(items.at(-1)?.index ?? 0).row ?? 0;
  useEffect(() => onView?.(first, last), [first, last, onView]);

  const active = rows[at];
  useEffect(() => onActive?.(active), [active, onActive]);

  const known = rows.filter((r) => r !== undefined);
  const all = known.length > 0 && selected?.size === known.length;
  const toggle = (row: Row) => {
    if (!onSelect) return;
    const next = new Set(selected);
    const key = rowKey(row);
    if (!next.delete(key)) next.add(key);
    onSelect(next);
  };
  const id = useId();
  // What the keyboard can be on above the rows: the box that selects all, and the columns that sort.
  const heads = [
    ...(onSelect ? [{ key: '', do: () => onSelect(all ? new Set<string>() : new Set(known.map(rowKey))) }] : []),
    ...(onSort ? columns.filter((c) => c.sortable).map((c) => ({ key: c.key, do: () => onSort(c.key) })) : []),
  ];
  const headNow = head === undefined ? undefined : heads[Math.min(head, heads.length - 1)];
  const headId = (key: string) => `${id}-head-${key}`;
  const move = (to: number) => {
    if (to < 0 && at === 0 && heads.length > 0) {
      setHead(0);
      scroller.current?.scrollTo?.({ top: 0 });
      return;
    }
    const i = Math.max(0, Math.min(total - 1, to));
    setAt(i);
    virtual.scrollToIndex(lineOf(i));
  };
  const onHead = (key: string) => {
    if (head === undefined || !headNow) return false;
    if (key === 'ArrowRight') setHead(Math.min(head + 1, heads.length - 1));
    else if (key === 'ArrowLeft') setHead(Math.max(head - 1, 0));
    else if (key === 'ArrowDown' || key === 'Escape') setHead(undefined);
    else if (key === 'Enter' || key === ' ') headNow.do();
    else return key === 'ArrowUp';
    return true;
  };
  const onKeyDown = (e: KeyboardEvent) => {
    if (e.target !== e.currentTarget) return;
    if (onHead(e.key)) {
      e.preventDefault();
      return;
    }
    setHead(undefined);
    const steps: Record<string, number> = {
      ArrowDown: at + 1,
      ArrowUp: at - 1,
      PageDown: at + 20,
      PageUp: at - 20,
      Home: 0,
      End: total - 1,
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
  // Heads and rows are grids of their own: only with the same least width do their columns stand above each other.
  const minWidth = columns.reduce((sum, c) => sum + c.width, onSelect ? 32 : 0);
  return (
    <>
      <p role="status" className="sr-only">
        {label}: {total} {total === 1 ? 'row' : 'rows'}
        {selected && selected.size > 0 ? `, ${selected.size} selected` : ''}
      </p>
      {/* A grid is worked with the keyboard as a whole; its active row is told to assistive technology by its id. */}
      <div
        ref={scroller}
        role="grid"
        aria-label={label}
        aria-rowcount={total + 1}
        aria-activedescendant={headNow ? headId(headNow.key) : rows[at] ? `row-${rowKey(rows[at])}` : undefined}
        onBlur={() => setHead(undefined)}
        tabIndex={0}
        onKeyDown={onKeyDown}
        className="h-full min-h-0 overflow-auto"
      >
        <div role="row" className="sticky top-0 z-10 grid border-b border-line bg-tint" style={{ gridTemplateColumns: grid, minWidth }}>
          {onSelect && (
            <div
              role="columnheader"
              id={headId('')}
              className={`flex items-center justify-center ${headNow?.key === '' ? 'outline-2 -outline-offset-2 outline-water' : ''}`}
            >
              <input
                type="checkbox"
                tabIndex={-1}
                aria-label="Select all rows"
                checked={all}
                onChange={() => onSelect(all ? new Set() : new Set(known.map(rowKey)))}
              />
            </div>
          )}
          {columns.map((c) => {
            const now = sort?.key === c.key;
            return (
              <div
                key={c.key}
                role="columnheader"
                id={headId(c.key)}
                aria-sort={now ? (sort.down ? 'descending' : 'ascending') : undefined}
                className={`truncate px-2 py-1 text-xs font-semibold text-soft ${c.align === 'right' ? 'text-right' : ''} ${headNow?.key === c.key ? 'outline-2 -outline-offset-2 outline-water' : ''}`}
              >
                {c.sortable && onSort ? (
                  <button type="button" tabIndex={-1} className="font-semibold hover:text-ink" onClick={() => onSort(c.key)}>
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
        {total === 0 && empty && (
          <div role="row">
            <div role="gridcell">{empty}</div>
          </div>
        )}
        <div className="relative" style={{ height: virtual.getTotalSize(), minWidth }}>
          {items.map((v) => {
            const { heading, row: index = 0 } = rowOf(v.index);
            const row = rows[index];
            const place = { transform: `translateY(${v.start}px)`, height };
            if (heading)
              return (
                <div
                  key={`h${heading.at}`}
                  role="row"
                  className="absolute left-0 flex w-full items-center border-b border-line bg-ground px-2 text-sm font-semibold"
                  style={place}
                >
                  <div role="gridcell">{heading.text}</div>
                </div>
              );
            if (row === undefined)
              return (
                <div
                  key={`w${index}`}
                  role="row"
                  aria-busy="true"
                  className="absolute left-0 w-full border-b border-line/60 px-2 text-soft"
                  style={place}
                >
                  <div role="gridcell">…</div>
                </div>
              );
            const key = rowKey(row);
            const on = selected?.has(key);
            return (
              // Keys are handled by the grid.
              // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/interactive-supports-focus
              <div
                key={key}
                id={`row-${key}`}
                role="row"
                aria-rowindex={index + 2}
                aria-selected={onSelect ? (on ?? false) : undefined}
                onClick={() => {
                  setAt(index);
                  if (!onActive) onOpen?.(row);
                }}
                onDoubleClick={() => onActive && onOpen?.(row)}
                className={`absolute left-0 grid w-full items-center border-b border-line/60 text-sm ${onOpen ? 'cursor-pointer' : ''} ${on ? 'bg-amber-tint' : index === at ? 'bg-tint' : 'bg-sheet hover:bg-tint'}`}
                style={{ ...place, gridTemplateColumns: grid }}
              >
                {onSelect && (
                  <div role="gridcell" className="flex items-center justify-center">
                    <input
                      type="checkbox"
                      tabIndex={-1}
                      aria-label={`Select row ${index + 1}`}
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
    </>
  );
}
