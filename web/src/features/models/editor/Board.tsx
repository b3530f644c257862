import { useQuery } from '@tanstack/react-query';
import { memo, useId, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { Button } from '../../../ui/kit';
import { mm, text, type List, type Steps } from './steps';

interface Point {
  x: number;
  y: number;
}

const ways: Record<string, Point> = {
  ArrowLeft: { x: -1, y: 0 },
  ArrowRight: { x: 1, y: 0 },
  ArrowUp: { x: 0, y: 1 },
  ArrowDown: { x: 0, y: -1 },
};

/** The way in which a key moves rows, in millimetres; ten steps with Shift. */
export function wayOf(e: KeyboardEvent, step: string): { x: string; y: string } | undefined {
  const way = ways[e.key];
  if (!way) return undefined;
  const far = mm(step) * (e.shiftKey ? 10 : 1);
  return { x: text(way.x * far), y: text(way.y * far) };
}

/** What rows fill in the drawing, to be clicked and dragged. It is drawn anew only when rows or the choice change, not while one drags. */
const Boxes = memo(function Boxes(p: { list: List; unit: number; rows: number[]; least: number; chosen: boolean }) {
  const chosen = new Set(p.rows);
  return p.list.rows.map((r, i) => {
    if (chosen.has(i) !== p.chosen || (r.unit && p.unit && r.unit !== p.unit)) return null;
    const [left = 0, low = 0, right = 0, high = 0] = r.box;
    const wide = Math.max(right - left, p.least);
    const tall = Math.max(high - low, p.least);
    return (
      <rect
        key={i}
        data-row={i}
        x={(left + right) / 2 - wide / 2}
        y={-(low + high) / 2 - tall / 2}
        width={wide}
        height={tall}
        vectorEffect="non-scaling-stroke"
        className={`cursor-move fill-transparent ${p.chosen ? 'stroke-rust stroke-2' : 'hover:stroke-water hover:stroke-1'}`}
      />
    );
  });
});

/**
 * The drawing with its grid: rows of the list at hand are chosen by clicking or by a frame, and moved by dragging or with the arrows. The
 * picture itself comes from the service, also while something is dragged.
 */
export function Board({ steps, list, unit, step, label }: { steps: Steps; list: List; unit: number; step: string; label: string }) {
  const { shown, chosen, choose, change, drawing } = steps;
  const svg = useRef<SVGSVGElement>(null);
  const grid = useId();
  const [zoom, setZoom] = useState(1);
  const [drag, setDrag] = useState<{ from: Point; to: Point; rows: number[] | undefined }>();
  const of = list.of as typeof chosen.of;
  const rows = chosen.of === of ? chosen.rows : [];
  const by = drag?.rows
    ? {
        x: text(Math.round((drag.to.x - drag.from.x) / mm(step)) * mm(step)),
        y: text(Math.round((drag.to.y - drag.from.y) / mm(step)) * mm(step)),
      }
    : { x: '0', y: '0' };
  const moving = by.x !== '0' || by.y !== '0';
  const ghost = useQuery({
    queryKey: ['drawing-drag', steps.step, of, drag?.rows, by],
    queryFn: () => steps.ask(drawing, [{ do: 'move', of, rows: drag?.rows, by }]),
    enabled: moving,
    placeholderData: (before) => before,
    gcTime: 0,
    retry: false,
  });
  if (!shown) return null;
  const [wl = 0, wb = 0, wr = 0, wt = 0] = shown.view;
  // Nearer, the middle of what is chosen is in the middle of the board.
  const boxes = (rows.length > 0 && zoom > 1 ? rows : []).map((r) => list.rows[r]?.box ?? []);
  const middle = (low: number, high: number, whole: number) =>
    boxes.length > 0 ? (Math.min(...boxes.map((b) => b[low] ?? 0)) + Math.max(...boxes.map((b) => b[high] ?? 0))) / 2 : whole;
  const [cx, cy] = [middle(0, 2, (wl + wr) / 2), middle(1, 3, (wb + wt) / 2)];
  const [left, right] = [cx - (wr - wl) / 2 / zoom, cx + (wr - wl) / 2 / zoom];
  const [low, high] = [cy - (wt - wb) / 2 / zoom, cy + (wt - wb) / 2 / zoom];
  const picture = (moving && ghost.data) || shown;
  const [pl = 0, pb = 0, pr = 0, pt = 0] = picture.view;
  const least = Math.max(right - left, high - low) / 60;

  const at = (e: PointerEvent): Point => {
    const m = svg.current?.getScreenCTM();
    if (!m) return { x: 0, y: 0 };
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(m.inverse());
    return { x: p.x, y: -p.y };
  };
  const seen = list.rows.map((r, i) => ({ r, i })).filter(({ r }) => !r.unit || !unit || r.unit === unit);
  const down = (e: PointerEvent) => {
    if (e.button !== 0) return;
    const text = e.target instanceof SVGElement ? e.target.dataset.row : undefined;
    const row = text === undefined ? undefined : Number(text);
    svg.current?.setPointerCapture(e.pointerId);
    const from = at(e);
    if (row === undefined) {
      setDrag({ from, to: from, rows: undefined });
      return;
    }
    let next = rows.includes(row) ? rows : [row];
    if (e.shiftKey || e.ctrlKey) next = rows.includes(row) ? rows.filter((r) => r !== row) : [...rows, row];
    choose({ of, rows: next });
    setDrag({ from, to: from, rows: next });
  };
  const up = () => {
    if (!drag) return;
    if (drag.rows && moving) change({ do: 'move', of, rows: drag.rows, by });
    if (!drag.rows) {
      const [x1, x2] = [drag.from.x, drag.to.x].sort((a, b) => a - b) as [number, number];
      const [y1, y2] = [drag.from.y, drag.to.y].sort((a, b) => a - b) as [number, number];
      choose({
        of,
        rows: seen
          .filter(({ r: { box } }) => (box[0] ?? 0) >= x1 && (box[2] ?? 0) <= x2 && (box[1] ?? 0) >= y1 && (box[3] ?? 0) <= y2)
          .map(({ i }) => i),
      });
    }
    setDrag(undefined);
  };
  const dots = mm(step) > 0 && (right - left) / mm(step) <= 160;
  const nearer = (by: number) => setZoom((z) => Math.max(1, Math.min(32, z * by)));
  return (
    <div className="relative h-full">
      <div className="absolute top-1 right-1 z-10 flex gap-1">
        <Button aria-label="Farther" title="-" disabled={zoom === 1} onClick={() => nearer(0.5)}>
          −
        </Button>
        <Button aria-label="Nearer, to what is chosen" title="+" disabled={zoom === 32} onClick={() => nearer(2)}>
          +
        </Button>
      </div>
      <svg
        ref={svg}
        role="application"
        aria-label={`${label}: ${rows.length === 0 ? 'nothing is chosen' : `${rows.length} chosen`}. Arrows move what is chosen by ${step} mm, with Shift ten times as far.`}
        tabIndex={0}
        className="h-full w-full touch-none rounded border border-line bg-sheet select-none"
        viewBox={`${left} ${-high} ${right - left} ${high - low}`}
        onPointerDown={down}
        onPointerMove={(e) => drag && setDrag({ ...drag, to: at(e) })}
        onPointerUp={up}
        onPointerCancel={() => setDrag(undefined)}
        onKeyDown={(e) => {
          const way = wayOf(e, step);
          if (way && rows.length > 0 && !e.ctrlKey && !e.metaKey) {
            e.preventDefault();
            change({ do: 'move', of, rows, by: way });
          } else if (e.key === 'Escape') choose({ of, rows: [] });
          else if (e.key === 'Delete' && rows.length > 0) change({ do: 'remove', of, rows });
          else if (e.key === '+') nearer(2);
          else if (e.key === '-') nearer(0.5);
        }}
      >
        {dots && (
          <>
            <pattern id={grid} x={-mm(step) / 2} y={-mm(step) / 2} width={mm(step)} height={mm(step)} patternUnits="userSpaceOnUse">
              <circle cx={mm(step) / 2} cy={mm(step) / 2} r={(right - left) / 900} className="fill-soft" />
            </pattern>
            <rect x={left} y={-high} width={right - left} height={high - low} fill={`url(#${grid})`} opacity="0.55" />
          </>
        )}
        <image
          href={`data:image/svg+xml;charset=utf-8,${encodeURIComponent(picture.svg)}`}
          x={pl}
          y={-pt}
          width={pr - pl}
          height={pt - pb}
        />
        <Boxes list={list} unit={unit} rows={rows} least={least} chosen={false} />
        <g transform={`translate(${by.x} ${-mm(by.y)})`}>
          <Boxes list={list} unit={unit} rows={rows} least={least} chosen />
        </g>
        {drag && !drag.rows && (
          <rect
            x={Math.min(drag.from.x, drag.to.x)}
            y={-Math.max(drag.from.y, drag.to.y)}
            width={Math.abs(drag.to.x - drag.from.x)}
            height={Math.abs(drag.to.y - drag.from.y)}
            vectorEffect="non-scaling-stroke"
            className="fill-tint/40 stroke-water"
          />
        )}
      </svg>
    </div>
  );
}
