import { useState } from 'react';
import { Link } from 'react-router';
import { Button, Dialog, Empty, Field, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useChoose, useFunctions, type BOM } from './queries';

const rowsOf = (rows: number[]) => (rows.length === 1 ? `row ${String(rows[0])}` : `rows ${rows.join(', ')}`);

/** Functions that the board buys as several parts: what its build would come to with one for each, and taking that one. */
export function UniteDialog({ bom: now, at, variant, onClose }: { bom: BOM; at: string; variant: string; onClose: () => void }) {
  const [why, setWhy] = useState('one part for one function');
  const asked = useFunctions(now.id, variant, now.version);
  const choose = useChoose(at);
  const say = useSay();
  const f = asked.data;
  return (
    <Dialog open wide title="One part for one function" onClose={onClose}>
      <Trouble error={asked.error ?? choose.error} />
      {f && (
        <p className="mb-2 text-sm">
          {f.boards === 1 ? 'A build of 1 board' : `A build of ${f.boards.toLocaleString('en')} boards`} comes to {f.sum || 'no sum'} as it
          is
          {f.missing > 0 && `, without ${f.missing.toLocaleString('en')} pieces that have no price`}. It was bought anew with each of these
          alone.
        </p>
      )}
      {f?.items.length === 0 && <Empty title="No function is bought as several parts" />}
      {f && f.items.length > 0 && (
        <Field label="Why, kept with each line" value={why} maxLength={500} onChange={(e) => setWhy(e.target.value)} />
      )}
      {f?.items.map((item) => (
        <table key={item.parts.map((p) => p.id).join()} className="mt-3 w-full text-sm">
          <thead>
            <tr className="text-left text-xs text-soft">
              <th className="py-1 pr-3">Part</th>
              <th className="pr-3">Description</th>
              <th className="pr-3">Now in</th>
              <th className="pr-3 text-right">With it alone</th>
              <th className="pr-3 text-right">Saves</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {item.parts.map((p) => {
              const others = item.parts.flatMap((o) => (o.id === p.id ? [] : o.rows));
              return (
                <tr key={p.id} className="border-t border-line/60">
                  <th scope="row" className="py-1 pr-3 text-left">
                    <Link className="font-semibold underline" to={`/parts/${encodeURIComponent(p.number)}`}>
                      {p.number}
                    </Link>
                  </th>
                  <td className="pr-3">
                    {p.description} · {p.manufacturer} {p.mpn}
                  </td>
                  <td className="pr-3">{rowsOf(p.rows)}</td>
                  <td className="pr-3 text-right whitespace-nowrap">{p.sum || 'no sum'}</td>
                  <td className="pr-3 text-right whitespace-nowrap">
                    {p.saves || p.why}
                    {p.short && ' (short)'}
                  </td>
                  <td className="text-right">
                    <Button
                      look="quiet"
                      disabled={choose.isPending || !why.trim()}
                      onClick={() =>
                        choose.mutate(
                          { id: now.id, version: now.version, body: { choose: others.map((row) => ({ row, part: p.id, reason: why })) } },
                          {
                            onSuccess: () =>
                              say(`${p.number} is in ${others.length === 1 ? '1 more line' : `${String(others.length)} more lines`}.`),
                          },
                        )
                      }
                    >
                      Take this one
                    </Button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      ))}
      {f && f.more > 0 && <p className="mt-2 text-sm text-soft">{f.more} more are not worked out: unite these first.</p>}
    </Dialog>
  );
}
