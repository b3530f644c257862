import { Bar, BarChart, CartesianGrid, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { ChartFigure } from '../../ui/chart';
import { numberOf } from '../../ui/sums';
import type { Cost } from './queries';

const tick = { fontSize: 11, fill: 'var(--color-soft)' };
const tip = { background: 'var(--color-sheet)', borderColor: 'var(--color-line)', fontSize: 12 };

/** What a board costs against how many are built; a click on a point works that out. */
export function BoardCost({ cost, onBoards }: { cost: Cost; onBoards: (boards: number) => void }) {
  const rows = cost.points.flatMap((p) => {
    const each = numberOf(p.board);
    return each === undefined ? [] : [{ boards: p.boards, each }];
  });
  if (rows.length < 2) return null;
  return (
    <ChartFigure
      title={`One board costs, ${cost.currency}, by boards in a build`}
      file={`${cost.name} cost of a board ${cost.day}`}
      head={['boards', `each ${cost.currency}`]}
      rows={rows.map((r) => [r.boards, r.each])}
    >
      <ResponsiveContainer width="100%" height={180}>
        <LineChart
          data={rows}
          margin={{ top: 6, right: 24, bottom: 0, left: 0 }}
          accessibilityLayer
          onClick={(e) => {
            const n = Number(e.activeLabel);
            if (n > 0) onBoards(n);
          }}
        >
          <CartesianGrid stroke="var(--color-line)" vertical={false} />
          <XAxis dataKey="boards" type="number" scale="log" domain={['dataMin', 'dataMax']} ticks={rows.map((r) => r.boards)} tick={tick} />
          <YAxis tick={tick} width={54} domain={[0, 'auto']} />
          <Tooltip labelFormatter={(n) => `${Number(n).toLocaleString('en')} boards`} contentStyle={tip} />
          <Line dataKey="each" name="a board" stroke="var(--color-water)" dot={{ r: 3 }} isAnimationActive={false} />
        </LineChart>
      </ResponsiveContainer>
    </ChartFigure>
  );
}

/** The ten dearest purchases; a click goes to the part. */
export function Dearest({ cost, onPart }: { cost: Cost; onPart: (number: string) => void }) {
  const rows = cost.bought.slice(0, 10).flatMap((b) => {
    const sum = numberOf(b.converted ?? (b.rate ? undefined : b.total));
    return sum === undefined ? [] : [{ number: b.number, sum, what: b.description }];
  });
  if (rows.length === 0) return null;
  return (
    <ChartFigure
      title={`The dearest purchases, ${cost.currency}`}
      file={`${cost.name} dearest ${cost.day}`}
      head={['part', 'description', `sum ${cost.currency}`]}
      rows={rows.map((r) => [r.number, r.what, r.sum])}
    >
      <ResponsiveContainer width="100%" height={Math.max(60, 17 * rows.length + 20)}>
        <BarChart
          data={rows}
          layout="vertical"
          margin={{ top: 0, right: 24, bottom: 0, left: 0 }}
          accessibilityLayer
          onClick={(e) => e.activeLabel !== undefined && onPart(String(e.activeLabel))}
        >
          <XAxis type="number" tick={tick} height={20} />
          <YAxis type="category" dataKey="number" width={92} tick={tick} interval={0} />
          <Tooltip contentStyle={tip} />
          <Bar dataKey="sum" name="sum" fill="var(--color-water)" isAnimationActive={false} />
        </BarChart>
      </ResponsiveContainer>
    </ChartFigure>
  );
}

/** What the parts of each drawer come to, as a table that is drawn. */
export function Shares({ cost }: { cost: Cost }) {
  const most = Math.max(0, ...cost.shares.map((s) => numberOf(s.sum) ?? 0));
  if (most === 0) return null;
  return (
    <table className="w-full text-sm">
      <caption className="text-left text-xs font-semibold text-soft">By drawer</caption>
      <tbody>
        {cost.shares.map((s) => (
          <tr key={s.drawer}>
            <th scope="row" className="py-0.5 pr-2 text-left font-normal whitespace-nowrap">
              {s.kind}
            </th>
            <td className="pr-2 text-right whitespace-nowrap tabular-nums">{s.sum}</td>
            <td className="w-1/2">
              <div
                className="h-2.5 rounded-sm bg-water"
                style={{ width: `${String(Math.max(1, (100 * (numberOf(s.sum) ?? 0)) / most))}%` }}
                aria-hidden="true"
              />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
