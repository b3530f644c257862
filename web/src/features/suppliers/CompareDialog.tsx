import { Dialog } from '../../ui/kit';
import { ScrollArea } from '../../ui/scroll';
import { useCabinet } from '../cabinet/queries';
import { sum, type Answers, type Offered } from './queries';

interface Side {
  key: string;
  head: string;
  sub: string;
  drawer: string;
  values: Record<string, string | undefined>;
  stock: string;
  price: string;
  stands: string;
}

/** Up to six products side by side, with the library's own parts of the question among them. */
export function CompareDialog({ rows, own, onClose }: { rows: Offered[]; own: Answers['own']; onClose: () => void }) {
  const cabinet = useCabinet();
  const sides: Side[] = [
    ...own.slice(0, Math.max(0, 6 - rows.length)).map((p) => ({
      key: p.id,
      head: p.number,
      sub: `own: ${p.manufacturer} ${p.mpn}`,
      drawer: p.drawer,
      values: p.values,
      stock: '',
      price: '',
      stands: p.standing,
    })),
    ...rows.map((r) => ({
      key: r.key,
      head: r.mpn,
      sub: r.manufacturer,
      drawer: r.drawer,
      values: r.values,
      stock: r.stock.toLocaleString('en'),
      price: r.offers[0] ? `${sum(r.offers[0])} of ${r.offers[0].supplier}` : '',
      stands: r.states.join(', '),
    })),
  ];
  const slots = new Map<string, string>();
  for (const s of sides)
    for (const slot of cabinet.data?.drawers.find((d) => d.key === s.drawer)?.slots ?? [])
      if (sides.some((x) => x.values[slot.key])) slots.set(slot.key, slot.label);
  const lines: [string, (s: Side) => string][] = [
    ['Stands', (s) => s.stands],
    ['Stock', (s) => s.stock],
    ['Price', (s) => s.price],
    ...[...slots].map(([key, label]): [string, (s: Side) => string] => [label, (s) => s.values[key] ?? '']),
  ];
  return (
    <Dialog open wide title={`${sides.length} side by side`} onClose={onClose}>
      <ScrollArea label="Comparison" className="overflow-x-auto">
        <table className="w-full text-sm">
          <thead>
            <tr className="text-left">
              <td />
              {sides.map((s) => (
                <th key={s.key} scope="col" className="pr-4 pb-1 align-bottom">
                  {s.head}
                  <span className="block text-xs font-normal text-soft">{s.sub}</span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {lines.map(([label, of]) => {
              const differ = new Set(sides.map(of).filter(Boolean)).size > 1;
              return (
                <tr key={label} className="border-t border-line/60">
                  <th scope="row" className="py-1 pr-4 text-left font-medium text-soft">
                    {label}
                    {differ && <span title="They differ"> ≠</span>}
                  </th>
                  {sides.map((s) => (
                    <td key={s.key} className={`pr-4 ${differ ? 'font-semibold' : ''}`}>
                      {of(s) || <span className="font-normal text-soft">–</span>}
                    </td>
                  ))}
                </tr>
              );
            })}
          </tbody>
        </table>
      </ScrollArea>
    </Dialog>
  );
}
