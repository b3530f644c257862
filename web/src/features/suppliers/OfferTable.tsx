import { Chip } from '../../ui/kit';
import { ScrollArea } from '../../ui/scroll';
import { age, buying, stockOf, sum, type Offer } from './queries';

/** Offers side by side, the cheapest first, each with when it was seen. */
export function OfferTable({ label, offers, pieces }: { label: string; offers: Offer[]; pieces: number }) {
  return (
    <ScrollArea label={label} className="overflow-x-auto">
      <table className="w-full text-sm" aria-label={label}>
        <thead>
          <tr className="text-left text-xs text-soft">
            <th className="py-1 pr-3">Supplier</th>
            <th className="pr-3 text-right">Stock</th>
            <th className="pr-3 text-right">For {pieces.toLocaleString('en')}</th>
            <th>Terms</th>
          </tr>
        </thead>
        <tbody>
          {offers.map((o) => (
            <tr
              key={`${o.supplier} ${o.number} ${o.packing ?? ''}`}
              className={`border-t border-line/60 align-top ${o.gone ? 'text-soft' : ''}`}
            >
              <th scope="row" className="py-1 pr-3 text-left font-medium">
                {o.supplier}
                <span className="block text-xs font-normal text-soft">
                  {o.number}
                  {o.packing && ` · ${o.packing}`}
                </span>
                {o.gone && <Chip tone="bad">not known any more</Chip>}
                {o.problems?.map((p) => (
                  <span key={p} className="block text-xs font-normal text-amber">
                    {p}
                  </span>
                ))}
              </th>
              <td className="pr-3 text-right whitespace-nowrap">{stockOf(o)}</td>
              <td className="pr-3 text-right font-semibold whitespace-nowrap" title={o.rate}>
                {o.ended ? <Chip tone="open">{`ended ${o.until ?? ''}`}</Chip> : sum(o)}
                {o.converted && <span className="block text-xs font-normal text-soft">{o.buy?.total}</span>}
                {buying(o) && <span className="block text-xs font-normal whitespace-normal text-soft">{buying(o)}</span>}
              </td>
              <td className="py-1 text-xs text-soft" title={new Date(o.seen).toLocaleString()}>
                {[
                  o.each && `${o.each} each`,
                  (o.minimum ?? 1) > 1 && `from ${o.minimum?.toLocaleString('en') ?? ''}`,
                  (o.multiple ?? 1) > 1 && `by ${o.multiple?.toLocaleString('en') ?? ''}`,
                  o.leadDays !== undefined && `more in ${o.leadDays} days`,
                  o.until && (o.ended ? `its prices held until ${o.until}` : `prices until ${o.until}`),
                  o.state && `says “${o.state}”`,
                  `seen ${age(o.seen)}`,
                ]
                  .filter(Boolean)
                  .join(', ')}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </ScrollArea>
  );
}
