import { lazy, Suspense, useState } from 'react';
import { Link } from 'react-router';
import type { Schemas } from '../../api/client';
import { useJob } from '../../api/job';
import { Button, Chip, Field, Panel, Trouble } from '../../ui/kit';
import { Asked } from '../../ui/asked';
import { useMay } from '../people';
import { OfferTable } from './OfferTable';
import { age, buying, sum, together, useOffers, useRefresh, useSettleNews } from './queries';

// The drawing of charts is large, and comes only where there is something to draw.
const OfferChart = lazy(async () => ({ default: (await import('./OfferChart')).OfferChart }));

/** How many the panel shows prices of at first. */
const usualPieces = 100;

/** What suppliers offer of all sources of a part, what became otherwise, and how it was. */
export function OffersPanel({
  number,
  question,
  onMove,
}: {
  number: string;
  question: string;
  onMove?: (to: string, said: string) => void;
}) {
  const [pieces, setPieces] = useState(usualPieces);
  const offers = useOffers(number, pieces);
  const refresh = useRefresh();
  const settle = useSettleNews();
  const may = useMay();
  const job = useJob(refresh.data?.id);
  const running = job.data?.state === 'waiting' || job.data?.state === 'running';
  const troubles = job.data?.refreshed?.suppliers.filter((s) => s.says) ?? [];
  return (
    <Panel
      title="Offers"
      actions={
        <>
          <Link className="self-center text-sm underline" to={`/suppliers?q=${encodeURIComponent(question)}`}>
            Ask the suppliers
          </Link>
          {may('offers.refresh') && (
            <Button disabled={refresh.isPending || running} onClick={() => refresh.mutate({ parts: [number] })}>
              {running ? 'Asking…' : 'Refresh'}
            </Button>
          )}
        </>
      }
    >
      <Trouble error={refresh.error ?? settle.error} />
      <Asked of={offers}>
        {(o) => (
          <div className="space-y-3">
            <div className="flex flex-wrap items-end gap-3 text-sm">
              <div className="w-28">
                <Field
                  label="Pieces"
                  type="number"
                  min={1}
                  value={pieces}
                  onChange={(e) => setPieces(Math.max(1, Math.min(1_000_000_000, Math.floor(Number(e.target.value) || 1))))}
                />
              </div>
              <p role="status" className="pb-1">
                {o.best ? (
                  <>
                    Cheapest: <strong>{sum(o.best)}</strong> of {o.best.supplier}
                    {o.best.each && `, ${o.best.each} each`}
                    {buying(o.best) && ` (${buying(o.best)})`}
                  </>
                ) : o.sources.some((s) => s.offers.length > 0) ? (
                  'No offer has a price that can be read.'
                ) : (
                  'No offers were seen yet: refresh asks every supplier.'
                )}
              </p>
            </div>
            {troubles.map((t) => (
              <p key={t.supplier} className="text-sm">
                <Chip tone="open">{t.state}</Chip> {t.says}
              </p>
            ))}
            {job.data?.refreshed?.problems.map((p) => (
              <p key={p} className="text-sm">
                <Chip tone="open">not kept</Chip> {p}
              </p>
            ))}
            {together(o.news).map(({ n, ids }) => (
              <p key={n.id} className="flex flex-wrap items-center gap-2 rounded border border-line bg-amber-tint px-2 py-1 text-sm">
                <Chip tone="open">news</Chip>
                <span className="min-w-48 flex-1">
                  {n.supplier}: {n.says} <span className="text-soft">({age(n.at)})</span>
                </span>
                {n.propose && onMove && may('thing.move') && (
                  <Button onClick={() => onMove(n.propose ?? '', `${n.supplier}: ${n.says}`)}>Move it to {n.propose}…</Button>
                )}
                {may('part.edit') && (
                  <Button look="quiet" disabled={settle.isPending} onClick={() => settle.mutate(ids)}>
                    Seen to
                  </Button>
                )}
              </p>
            ))}
            {o.sources
              .filter((s) => s.offers.length > 0)
              .map((s) => (
                <div key={`${s.manufacturer} ${s.mpn}`}>
                  <h3 className="text-xs font-semibold text-soft">
                    {s.manufacturer} {s.mpn}
                  </h3>
                  <OfferTable label={`Offers of ${s.mpn}`} offers={s.offers} pieces={pieces} />
                </div>
              ))}
            {o.history.length > 0 && (
              <Suspense fallback={<p className="text-sm text-soft">Drawing…</p>}>
                <OfferChart history={o.history} pieces={pieces} />
              </Suspense>
            )}
          </div>
        )}
      </Asked>
    </Panel>
  );
}

/** What suppliers sent of models for a part, where the part's models stand. */
export function ModelsArrived({ number }: { number: string }) {
  const offers = useOffers(number, usualPieces);
  return offers.data?.models ? <FetchedModels job={offers.data.models} /> : null;
}

/** The models that came with a source: under way, beside the library's, or why they are not there. */
function FetchedModels({ job }: { job: Schemas['Job'] }) {
  const seen = useJob(['waiting', 'running'].includes(job.state) ? job.id : undefined);
  const now = seen.data ?? job;
  if (now.state === 'waiting' || now.state === 'running')
    return (
      <p role="status" className="text-sm">
        Models of the suppliers: {now.done} of {now.total} files fetched.
      </p>
    );
  return (
    <div className="text-sm">
      {now.models?.delivery && (
        <p>
          Models of the suppliers ({now.models.files === 1 ? '1 file' : `${now.models.files} files`}) lie beside the library’s:{' '}
          <Link className="underline" to={`/deliveries/${now.models.delivery}`}>
            {now.models.delivery}
          </Link>
        </p>
      )}
      {now.state === 'failed' && <Trouble error={new Error(now.error ?? '')} />}
      {now.models?.problems.map((p) => (
        <p key={p}>
          <Chip tone="open">not fetched</Chip> {p}
        </p>
      ))}
    </div>
  );
}
