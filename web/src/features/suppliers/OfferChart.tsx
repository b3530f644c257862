import { useState } from 'react';
import { CartesianGrid, Legend, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { Schemas } from '../../api/client';
import { numberOf } from '../../ui/sums';

type Point = Schemas['OfferPoint'];

/** Lines that are told apart by their dashes as well as by their colours. */
const strokes = [
  { stroke: 'var(--color-water)', dash: '' },
  { stroke: 'var(--color-amber)', dash: '6 3' },
  { stroke: 'var(--color-ink)', dash: '2 3' },
  { stroke: 'var(--color-rust)', dash: '8 3 2 3' },
];

/** Rows of a chart: one a moment, with what each offer was from then on. */
export function rowsOf(points: Point[], of: (p: Point) => number | undefined): { rows: Record<string, number>[]; names: string[] } {
  const names = [...new Set(points.filter((p) => of(p) !== undefined).map(nameOf))];
  const now = new Map<string, number>();
  const rows = points.map((p) => {
    const v = of(p);
    if (v === undefined) now.delete(nameOf(p));
    else now.set(nameOf(p), v);
    return { at: new Date(p.at).getTime(), ...Object.fromEntries(now) };
  });
  return { rows, names };
}

/** Where a chart begins and ends: more than that does not fit below it. */
const ends = (rows: Record<string, number>[]) => [rows[0]?.at ?? 0, rows[rows.length - 1]?.at ?? 0];

const nameOf = (p: Point) => `${p.supplier} ${p.number}`;

/** Stock and price over time, each offer a line of steps: an offer is as it was said last until something else is said. */
export function OfferChart({ history, pieces }: { history: Point[]; pieces: number }) {
  const [now] = useState(() => Date.now());
  if (history.length === 0) return null;
  const currencies = [...new Set(history.map((p) => p.total?.split(' ')[1]).filter((c) => c !== undefined))];
  const first = new Date(history[0]?.at ?? 0).getTime();
  const short = now - first < 2 * 24 * 60 * 60 * 1000; // days would all be the same
  const until = { ...history[history.length - 1], at: new Date(now).toISOString() } as Point;
  const drawn = [
    ...currencies.map((c) => ({
      title: `Price of ${pieces.toLocaleString('en')}, ${c}`,
      of: (p: Point) => (p.total?.endsWith(c) ? numberOf(p.total) : undefined),
    })),
    { title: 'Stock', of: (p: Point) => p.stock },
  ];
  return (
    <div className="grid grid-cols-1 gap-3 xl:grid-cols-2">
      {drawn.map(({ title, of }) => {
        const { rows, names } = rowsOf([...history, until], of);
        if (names.length === 0) return null;
        return (
          <figure key={title}>
            <figcaption className="text-xs font-semibold text-soft">{title}</figcaption>
            <ResponsiveContainer width="100%" height={170}>
              <LineChart data={rows} margin={{ top: 4, right: 34, bottom: 0, left: 0 }} accessibilityLayer>
                <CartesianGrid stroke="var(--color-line)" vertical={false} />
                <XAxis
                  dataKey="at"
                  type="number"
                  scale="time"
                  domain={['dataMin', 'dataMax']}
                  ticks={ends(rows)}
                  tickFormatter={(t: number) => (short ? new Date(t).toLocaleTimeString() : new Date(t).toLocaleDateString())}
                  tick={{ fontSize: 11, fill: 'var(--color-soft)' }}
                  interval={0}
                />
                <YAxis tick={{ fontSize: 11, fill: 'var(--color-soft)' }} width={54} domain={[0, 'auto']} />
                <Tooltip
                  labelFormatter={(t) => new Date(Number(t)).toLocaleString()}
                  contentStyle={{ background: 'var(--color-sheet)', borderColor: 'var(--color-line)', fontSize: 12 }}
                />
                <Legend wrapperStyle={{ fontSize: 11 }} />
                {names.map((n, i) => {
                  const s = strokes[i % strokes.length];
                  return (
                    <Line
                      key={n}
                      dataKey={n}
                      type="stepAfter"
                      stroke={s?.stroke}
                      strokeDasharray={s?.dash}
                      dot={{ r: 2 }}
                      isAnimationActive={false}
                      connectNulls
                    />
                  );
                })}
              </LineChart>
            </ResponsiveContainer>
          </figure>
        );
      })}
    </div>
  );
}
