import { Link } from 'react-router';
import { Button, Chip } from '../../ui/kit';
import { ScrollArea } from '../../ui/scroll';
import { useCabinet } from '../cabinet/queries';
import { useMay } from '../people';
import { OfferTable } from './OfferTable';
import type { Offered } from './queries';

interface Props {
  row: Offered | undefined;
  pieces: number;
  onTake: () => void;
  onSource: () => void;
}

/** The product that is looked at: what the suppliers say of it, and what they offer. */
export function OfferedBeside({ row, pieces, onTake, onSource }: Props) {
  const cabinet = useCabinet();
  const may = useMay();
  const kind = cabinet.data?.drawers.find((d) => d.key === row?.drawer);
  return (
    <ScrollArea
      as="aside"
      label="The product that is looked at"
      className="min-h-0 overflow-auto border-l border-line bg-ground p-3 text-sm"
    >
      {!row ? (
        <p className="text-soft">Move to a product with the arrow keys.</p>
      ) : (
        <div className="space-y-3">
          <div>
            <h2 className="text-base font-semibold">{row.mpn}</h2>
            <p className="text-soft">
              {row.manufacturer}
              {row.series && ` · series ${row.series}`} · {row.label || 'no drawer'}
            </p>
          </div>
          {may('part.edit') && (
            <p className="flex flex-wrap gap-2">
              <Button look="act" onClick={onTake}>
                Take as a draft…
              </Button>
              <Button onClick={onSource}>As a source of a part…</Button>
            </p>
          )}
          {row.own.length > 0 && (
            <p>
              The library has it:{' '}
              {row.own.map((n) => (
                <Link key={n} className="mr-2 font-semibold underline" to={`/parts/${encodeURIComponent(n)}`}>
                  {n}
                </Link>
              ))}
            </p>
          )}
          {row.fails.length > 0 && (
            <p>
              <Chip tone="bad">does not hold</Chip> {row.fails.join(', ')}
            </p>
          )}
          {row.differ.map((d) => (
            <p key={d}>
              <Chip tone="open">suppliers disagree</Chip> {d}
            </p>
          ))}
          <table className="w-full">
            <caption className="sr-only">Parameters</caption>
            <tbody>
              {kind?.slots
                .filter((s) => row.values[s.key] || row.unread?.[s.key] || s.required || s.byHand)
                .map((s) => (
                  <tr key={s.key} className="border-t border-line/60">
                    <th scope="row" className="py-0.5 pr-2 text-left font-medium text-soft">
                      {s.label}
                    </th>
                    <td className="text-right font-semibold">
                      {row.values[s.key] ??
                        (row.unread?.[s.key] ? (
                          <>
                            {row.unread[s.key]} <Chip tone="bad">not read</Chip>
                          </>
                        ) : (
                          <span className="font-normal text-soft">{s.byHand ? 'by hand' : 'not said'}</span>
                        ))}
                    </td>
                  </tr>
                ))}
            </tbody>
          </table>
          {row.states.length > 0 && (
            <p>
              The suppliers say: {row.states.join(', ')}
              {row.stands && row.stands !== 'active' && (
                <>
                  {' '}
                  <Chip tone="bad">{row.stands}</Chip>
                </>
              )}
            </p>
          )}
          {row.datasheet && (
            <p>
              <a className="underline" href={row.datasheet} target="_blank" rel="noreferrer noopener">
                Datasheet
              </a>
            </p>
          )}
          {row.models.length > 0 && <p>Models ready: {row.models.map((m) => m.name || m.kind).join(', ')}</p>}
          <OfferTable label={`Offers of ${row.mpn}`} offers={row.offers} pieces={pieces} />
        </div>
      )}
    </ScrollArea>
  );
}
