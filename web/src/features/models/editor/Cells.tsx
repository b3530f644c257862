import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useId, useRef, useState, type KeyboardEvent } from 'react';
import { type Schemas } from '../../../api/client';
import { wayOf } from './Board';
import { type List, type Steps } from './steps';

type Column = Schemas['RedrawColumn'];
/** Writes a cell and goes on by rows and columns; whoever left the table by themselves stays where they went. */
type Write = (value: string, then: [number, number], stay?: boolean) => void;

const height = 28;
const right = (c: Column) => c.is === 'length' || c.is === 'angle';
const widths: Partial<Record<string, number>> = { number: 78, name: 130, shape: 96, form: 92, runs: 70, hidden: 66, text: 130 };
const widthOf = (c: Column) => widths[c.key] ?? { text: 110, length: 72, angle: 60, choice: 112, points: 200 }[c.is];

/**
 * The list as a table whose cells are written in place. It is one stop of the Tab key: arrows go from cell to cell, with Shift they choose
 * rows, with Alt they move what is chosen on the board. Typing or Enter writes into the cell; where several rows are chosen, into all of them.
 */
export function Cells({ steps, list, step, unit }: { steps: Steps; list: List; step: string; unit: number }) {
  const { chosen, choose, change } = steps;
  const of = list.of as typeof chosen.of;
  const rows = chosen.of === of ? chosen.rows : [];
  const [placed, setAt] = useState({ row: 0, column: 0, step: 0 });
  const [writing, setWriting] = useState<string>();
  const [from, setFrom] = useState(0);
  const scroller = useRef<HTMLDivElement>(null);
  const id = useId();
  // After a step that chose other rows, the keyboard is on the first of them.
  const there = placed.step !== steps.step && rows[0] !== undefined && !rows.includes(placed.row) ? rows[0] : placed.row;
  const at = { row: there, column: placed.column };
  const row = Math.max(0, Math.min(at.row, list.rows.length - 1));
  const column = list.columns[Math.min(at.column, list.columns.length - 1)];
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing of it is memoized here
  const virtual = useVirtualizer({
    count: list.rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    scrollPaddingEnd: height,
    overscan: 10,
  });
  const first = rows[0];
  useEffect(() => {
    if (first !== undefined) virtual.scrollToIndex(first);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only when another row is chosen
  }, [first, of]);
  const count = list.rows.length;
  const go = (r: number, c: number, choosing: boolean) => {
    const next = { row: Math.max(0, Math.min(count - 1, r)), column: Math.max(0, Math.min(list.columns.length - 1, c)), step: steps.step };
    setAt(next);
    virtual.scrollToIndex(next.row);
    scroller.current?.querySelector(`[data-column="${next.column}"]`)?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
    if (next.row === row && !choosing) return;
    if (!choosing) {
      setFrom(next.row);
      choose({ of, rows: [next.row] });
      return;
    }
    const [a, b] = [Math.min(from, next.row), Math.max(from, next.row)];
    choose({ of, rows: Array.from({ length: b - a + 1 }, (_, i) => a + i) });
  };
  const write: Write = (value, then, stay = true) => {
    setWriting(undefined);
    if (!column) return;
    const into = rows.includes(row) ? rows : [row];
    const was = list.rows[row]?.cells[list.columns.indexOf(column)];
    if (into.length > 1 || value !== was) change({ do: 'set', of, rows: into, column: column.key, value });
    if (into.length === 1) go(row + then[0], at.column + then[1], false);
    else setAt({ row, column: Math.max(0, Math.min(list.columns.length - 1, at.column + then[1])), step: steps.step });
    if (stay) scroller.current?.focus();
  };
  const begin = (value?: string) => setWriting(value ?? list.rows[row]?.cells[at.column] ?? '');
  const onKeyDown = (e: KeyboardEvent) => {
    if (e.target !== e.currentTarget) return;
    const way = e.altKey ? wayOf(e, step) : undefined;
    const paces: Record<string, [number, number]> = {
      ArrowDown: [1, 0],
      ArrowUp: [-1, 0],
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
      PageDown: [15, 0],
      PageUp: [-15, 0],
    };
    const pace = paces[e.key];
    const plain = !e.ctrlKey && !e.metaKey && !e.altKey;
    if (way) change({ do: 'move', of, rows: rows.length > 0 ? rows : [row], by: way });
    else if (pace) go(row + pace[0], at.column + pace[1], e.shiftKey && pace[0] !== 0);
    else if (e.key === 'Home') go(e.ctrlKey ? 0 : row, e.ctrlKey ? at.column : 0, e.shiftKey);
    else if (e.key === 'End') go(e.ctrlKey ? count - 1 : row, e.ctrlKey ? at.column : list.columns.length - 1, e.shiftKey);
    else if (e.key === ' ') choose({ of, rows: rows.includes(row) ? rows.filter((r) => r !== row) : [...rows, row] });
    else if (e.key.toLowerCase() === 'a' && e.ctrlKey) choose({ of, rows: list.rows.map((_, i) => i) });
    else if (e.key === 'Escape') choose({ of, rows: [] });
    else if (e.key === 'Delete' && rows.length > 0) change({ do: 'remove', of, rows });
    else if (e.key === 'Insert') change({ do: 'add', of, rows, unit: unit || undefined });
    else if (e.key === 'Enter' || e.key === 'F2') begin();
    else if (e.key.length === 1 && plain && column?.is !== 'choice' && count > 0) {
      begin(''); // the key itself is typed into the cell, which has the focus by then
      return;
    } else if (e.key.length === 1 && plain) {
      const to = column?.choices?.find((c) => c.toLowerCase().startsWith(e.key.toLowerCase()));
      if (to === undefined) return;
      change({ do: 'set', of, rows: rows.includes(row) ? rows : [row], column: column?.key, value: to });
    } else return;
    e.preventDefault();
  };
  const paste = (raw: string) => {
    const values = raw.replace(/\r/g, '').replace(/\n$/, '').split('\n');
    const into = values.map((_, i) => row + i).filter((r) => r < count);
    if (column) change({ do: 'set', of, rows: into, column: column.key, values: values.slice(0, into.length) });
  };
  const width = list.columns.reduce((n, c) => n + widthOf(c), 44);
  return (
    <div
      ref={scroller}
      role="grid"
      aria-label={of}
      aria-rowcount={count + 1}
      aria-colcount={list.columns.length}
      aria-multiselectable="true"
      aria-activedescendant={count > 0 ? `${id}-${row}-${at.column}` : undefined}
      tabIndex={0}
      className="h-full min-h-40 overflow-auto rounded border border-line bg-sheet text-sm"
      onKeyDown={onKeyDown}
      onPaste={(e) => {
        if (e.target !== e.currentTarget || count === 0) return;
        e.preventDefault();
        paste(e.clipboardData.getData('text/plain'));
      }}
    >
      <div style={{ width }} className="relative">
        <div role="row" className="sticky top-0 z-10 flex border-b border-line bg-tint text-xs font-semibold">
          <span role="columnheader" className="w-11 shrink-0 px-2 py-1 text-soft">
            row
          </span>
          {list.columns.map((c) => (
            <span
              key={c.key}
              role="columnheader"
              title={c.hint}
              style={{ width: widthOf(c) }}
              className={`shrink-0 truncate px-2 py-1 ${right(c) ? 'text-right' : ''}`}
            >
              {c.name}
            </span>
          ))}
        </div>
        {count === 0 && <p className="p-3 text-soft">No {of} yet: Insert adds the first, or “Add…” several at once.</p>}
        <div style={{ height: virtual.getTotalSize() }} className="relative">
          {virtual.getVirtualItems().map((v) => {
            const on = rows.includes(v.index);
            return (
              <div
                key={v.index}
                role="row"
                aria-rowindex={v.index + 2}
                aria-selected={on}
                style={{ transform: `translateY(${v.start}px)`, height }}
                className={`absolute top-0 flex border-b border-line/60 ${on ? 'bg-amber-tint' : ''}`}
              >
                <span role="rowheader" className="w-11 shrink-0 px-2 py-1 text-xs text-soft">
                  {on ? '▸ ' : ''}
                  {v.index + 1}
                </span>
                {list.columns.map((c, k) => (
                  <Cell
                    key={c.key}
                    id={`${id}-${v.index}-${k}`}
                    column={c}
                    place={k}
                    value={list.rows[v.index]?.cells[k] ?? ''}
                    active={v.index === row && k === at.column}
                    writing={v.index === row && k === at.column ? writing : undefined}
                    many={rows.includes(row) ? rows.length : 1}
                    onWrite={write}
                    onStop={() => {
                      setWriting(undefined);
                      scroller.current?.focus();
                    }}
                    onChoose={(shift, ctrl) => {
                      setAt({ row: v.index, column: k, step: steps.step });
                      if (shift) {
                        const [a, b] = [Math.min(from, v.index), Math.max(from, v.index)];
                        choose({ of, rows: Array.from({ length: b - a + 1 }, (_, i) => a + i) });
                      } else if (ctrl) choose({ of, rows: on ? rows.filter((r) => r !== v.index) : [...rows, v.index] });
                      else if (!on || rows.length < 2) {
                        setFrom(v.index);
                        choose({ of, rows: [v.index] });
                      }
                    }}
                    onBegin={() => {
                      setAt({ row: v.index, column: k, step: steps.step });
                      setWriting(list.rows[v.index]?.cells[k] ?? '');
                    }}
                  />
                ))}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

function Cell(p: {
  id: string;
  column: Column;
  place: number;
  value: string;
  active: boolean;
  writing?: string;
  many: number;
  onWrite: Write;
  onStop: () => void;
  onChoose: (shift: boolean, ctrl: boolean) => void;
  onBegin: () => void;
}) {
  const style = { width: widthOf(p.column) };
  if (p.writing === undefined)
    return (
      // eslint-disable-next-line jsx-a11y/interactive-supports-focus, jsx-a11y/click-events-have-key-events -- the grid holds the focus and its keys
      <span
        id={p.id}
        role="gridcell"
        data-column={p.active ? p.place : undefined}
        style={style}
        title={p.value}
        className={`shrink-0 cursor-cell truncate px-2 py-1 ${right(p.column) ? 'text-right' : ''} ${p.active ? 'outline-2 -outline-offset-2 outline-water' : ''}`}
        onClick={(e) => p.onChoose(e.shiftKey, e.ctrlKey || e.metaKey)}
        onDoubleClick={p.onBegin}
      >
        {p.value || ' '}
      </span>
    );
  const name = p.many > 1 ? `${p.column.name} of ${p.many} rows` : `${p.column.name} of row`;
  return (
    <span id={p.id} role="gridcell" style={style} className="shrink-0">
      {p.column.choices ? (
        <select
          autoFocus // eslint-disable-line jsx-a11y/no-autofocus -- somebody began to write here
          aria-label={name}
          className="h-full w-full rounded-none border-2 border-water bg-sheet px-1"
          defaultValue={p.value}
          onChange={(e) => p.onWrite(e.target.value, [0, 0])}
          onBlur={p.onStop}
          onKeyDown={(e) => {
            if (e.key === 'Escape') p.onStop();
            if (e.key === 'Enter') p.onWrite(e.currentTarget.value, [1, 0]);
            if (e.key === 'Tab') {
              e.preventDefault();
              p.onWrite(e.currentTarget.value, [0, e.shiftKey ? -1 : 1]);
            }
          }}
        >
          {p.column.choices.map((c) => (
            <option key={c} value={c}>
              {c || 'no'}
            </option>
          ))}
        </select>
      ) : (
        <Writing label={name} start={p.writing} right={right(p.column)} onWrite={p.onWrite} onStop={p.onStop} />
      )}
    </span>
  );
}

function Writing(p: { label: string; start: string; right: boolean; onWrite: Write; onStop: () => void }) {
  const [value, setValue] = useState(p.start);
  const done = useRef(false);
  const end = (then: [number, number], stay = true) => {
    if (done.current) return;
    done.current = true;
    p.onWrite(value, then, stay);
  };
  return (
    <input
      autoFocus // eslint-disable-line jsx-a11y/no-autofocus -- somebody began to write here
      aria-label={p.label}
      value={value}
      className={`h-full w-full border-2 border-water bg-sheet px-1.5 ${p.right ? 'text-right' : ''}`}
      onChange={(e) => setValue(e.target.value)}
      onBlur={() => end([0, 0], false)}
      onKeyDown={(e) => {
        if (e.key === 'Escape') {
          done.current = true;
          p.onStop();
        }
        if (e.key === 'Enter') end([1, 0]);
        if (e.key === 'Tab') {
          e.preventDefault();
          end([0, e.shiftKey ? -1 : 1]);
        }
      }}
    />
  );
}
