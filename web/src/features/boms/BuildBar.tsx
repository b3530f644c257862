import { useState, type ReactNode } from 'react';
import { useSearchParams } from 'react-router';
import { useJob } from '../../api/job';
import { Button, Chip, Field, Select, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { useRefreshOffers, useSayBuild, type BOM } from './queries';

const most = 1_000_000;

/** How many boards are built at once, and what suppliers have for that: asked for anew at a press. The job stands in the address, so that it is seen again after leaving. */
export function BuildBar({ bom, at, children }: { bom: BOM; at: string; children?: ReactNode }) {
  const [typed, setTyped] = useState<string>();
  const [day, setDay] = useState<string>();
  const [params, setParams] = useSearchParams();
  const build = useSayBuild(at);
  const refresh = useRefreshOffers();
  const job = useJob(params.get('asked') ?? undefined);
  const may = useMay();
  const say = useSay();
  const boards = Number(typed ?? bom.build);
  const due = day ?? bom.due ?? '';
  const wrong = !Number.isInteger(boards) || boards < 0 || boards > most;
  const running = job.data?.state === 'waiting' || job.data?.state === 'running';
  const linked = bom.counts.linked ?? 0;
  const short = bom.lines.filter((l) => l.findings.some((f) => f.cause === 'stock-short')).length;
  const late = bom.lines.filter((l) => l.findings.some((f) => f.cause === 'lead-late')).length;
  const done = job.data?.refreshed;
  return (
    <div className="border-b border-line px-4 py-2 text-sm">
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (wrong || (boards === bom.build && due === (bom.due ?? ''))) return;
          build.mutate(
            { id: bom.id, version: bom.version, boards, due: due === (bom.due ?? '') ? undefined : due },
            {
              onSuccess: () => {
                setTyped(undefined);
                setDay(undefined);
                say(
                  boards
                    ? `A build of ${bom.name} is ${boards} boards${due ? `, on ${due}` : ''}.`
                    : `How many boards are built of ${bom.name} is not said any more.`,
                );
              },
            },
          );
        }}
      >
        <div className="w-32">
          <Field
            label="Boards in a build"
            inputMode="numeric"
            disabled={!may('bom.edit')}
            value={typed ?? (bom.build ? String(bom.build) : '')}
            error={wrong ? `A number up to ${most.toLocaleString('en')}` : undefined}
            onChange={(e) => setTyped(e.target.value.trim())}
          />
        </div>
        <div className="w-36">
          <Field label="On the day" type="date" disabled={!may('bom.edit')} value={due} onChange={(e) => setDay(e.target.value)} />
        </div>
        {bom.variants.length > 0 && (
          <div className="w-40">
            <Select
              label="Built as"
              disabled={!may('bom.edit') || build.isPending}
              value={bom.variant ?? ''}
              onChange={(e) =>
                build.mutate(
                  { id: bom.id, version: bom.version, boards: bom.build, variant: e.target.value },
                  {
                    onSuccess: (b) =>
                      say(b.variant ? `${b.name} is built as ${b.variant}.` : 'Which variant is built is not said any more.'),
                  },
                )
              }
            >
              <option value="">nobody said</option>
              {bom.variants.map((v) => (
                <option key={v} value={v}>
                  {v}
                </option>
              ))}
            </Select>
          </div>
        )}
        {children}
        {((typed !== undefined && boards !== bom.build) || due !== (bom.due ?? '')) && !wrong && (
          <Button look="act" type="submit" disabled={build.isPending}>
            Keep
          </Button>
        )}
        {may('offers.refresh') && linked > 0 && (
          <Button
            disabled={refresh.isPending || running}
            onClick={() =>
              refresh.mutate(bom.id, {
                onSuccess: (j) =>
                  setParams((p) => {
                    p.set('asked', j.id);
                    return p;
                  }),
              })
            }
          >
            {running ? 'Asking the suppliers…' : 'Ask the suppliers for its parts'}
          </Button>
        )}
        <p role="status" className="pb-1">
          {running && job.data
            ? `${job.data.done} of ${job.data.total} sources asked for.`
            : done
              ? `${done.sources} sources asked for, ${done.offers} offers seen, ${done.news === 1 ? '1 piece of news' : `${done.news} pieces of news`}.`
              : ''}{' '}
          {bom.build > 0 &&
            (short > 0 ? (
              <Chip tone="open">{`stock for less than a build: ${short === 1 ? '1 line' : `${short} lines`}`}</Chip>
            ) : (
              'No supplier says that there is less than a build takes.'
            ))}{' '}
          {late > 0 && <Chip tone="open">{`more comes after the day: ${late === 1 ? '1 line' : `${String(late)} lines`}`}</Chip>}
        </p>
      </form>
      <Trouble error={build.error ?? refresh.error ?? (job.data?.error ? new Error(job.data.error) : undefined)} />
      {done?.suppliers
        .filter((s) => s.says)
        .map((s) => (
          <p key={s.supplier} className="mt-1">
            <Chip tone="open">{s.state}</Chip> {s.says}
          </p>
        ))}
    </div>
  );
}
