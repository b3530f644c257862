import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { Stale } from '../../ui/asked';
import { useFilter } from '../../ui/filters';
import { Button, Empty, PageHead, Select, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { OriginDialog } from './BomDialogs';
import { useBom, useReadings, useWithdrawReading } from './queries';
import { BomTabs } from './tabs';

/** What people taught that lines of such files stand for. */
export function ReadingsPage() {
  const { key = '' } = useParams();
  const [of, setOf] = useFilter('of');
  const bom = useBom(key);
  const readings = useReadings(of === 'all' ? '' : key);
  const withdraw = useWithdrawReading();
  const may = useMay();
  const say = useSay();
  const [origin, setOrigin] = useState(false);
  if (bom.error && !bom.data) return <div className="p-4"><Trouble error={bom.error} /></div>; // prettier-ignore
  const b = bom.data;
  if (!b) return <Empty title="One moment…" />;
  const all = readings.data?.items ?? [];
  const total = readings.data?.page.total ?? 0;
  return (
    <>
      <Stale of={readings} />
      <PageHead title={b.name} sub={b.origin ? `Its files come from ${b.origin}` : 'Nobody said where its files come from'}>
        {may('bom.edit') && <Button onClick={() => setOrigin(true)}>Origin…</Button>}
      </PageHead>
      <BomTabs name={b.name} />
      <Trouble error={readings.error ?? withdraw.error} />
      <div className="space-y-3 overflow-auto p-4">
        <div className="w-80">
          <Select label="Readings of" value={of} onChange={(e) => setOf(e.target.value)}>
            <option value="">files with these headings from this origin</option>
            <option value="all">all files</option>
          </Select>
        </div>
        {readings.data && all.length === 0 && (
          <Empty title="Nothing was taught yet">
            Where you choose a record for a line, say what the next files of this origin shall make of such lines: it is listed here, and
            taken back here.
          </Empty>
        )}
        {all.length > 0 && (
          <table className="w-full text-sm">
            <thead>
              <tr className="text-left text-xs text-soft">
                <th className="py-1 pr-3">Lines that say</th>
                <th className="pr-3">Are</th>
                <th className="pr-3">How</th>
                {of === 'all' && <th className="pr-3">In files from</th>}
                <th className="pr-3">Taught by</th>
                <th className="pr-3">In</th>
                <th>
                  <span className="sr-only">Acts</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {all.map((r) => (
                <tr key={r.id} className="border-t border-line/60">
                  <th scope="row" className="max-w-80 py-1 pr-3 text-left font-mono text-xs font-normal break-words">
                    {r.text}
                  </th>
                  <td className="max-w-72 pr-3 break-words">
                    {r.part ? (
                      <Link className="font-semibold underline" to={`/parts/${encodeURIComponent(r.part)}`}>
                        {r.part}
                      </Link>
                    ) : r.none ? (
                      ''
                    ) : (
                      'a part that is gone'
                    )}{' '}
                    {r.description}
                  </td>
                  <td className="max-w-72 pr-3 break-words">
                    {r.void ? `void: ${r.void}` : r.none ? (r.links ? 'marked' : 'said') : r.links ? 'linked' : 'proposed'}
                  </td>
                  {of === 'all' && (
                    <td className="pr-3 break-words" title={r.headings.join(', ')}>
                      {r.origin || 'no origin said'}
                    </td>
                  )}
                  <td className="pr-3 whitespace-nowrap">
                    {r.by}, {new Date(r.at).toLocaleDateString()}
                  </td>
                  <td className="max-w-40 pr-3 break-words">{r.bom}</td>
                  <td className="py-1 text-right">
                    {may('bom.edit') && (
                      <Button
                        disabled={withdraw.isPending}
                        onClick={() =>
                          withdraw.mutate(r.id, { onSuccess: () => say('The reading is taken back; lines that it linked are open again.') })
                        }
                      >
                        Take back
                      </Button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {total > all.length && (
          <p className="text-sm text-soft">{`The newest ${String(all.length)} of ${String(total)} are shown; jolly bom learned lists them all.`}</p>
        )}
      </div>
      {origin && <OriginDialog bom={b} onClose={() => setOrigin(false)} />}
    </>
  );
}
