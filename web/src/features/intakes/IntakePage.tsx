import { useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import type { Schemas } from '../../api/client';
import { Stale } from '../../ui/asked';
import { pill } from '../../ui/filters';
import { Button, Dialog, Empty, Field, PageHead, State, Trouble } from '../../ui/kit';
import { Looked } from '../../ui/looked';
import { useMay } from '../people';
import { DecidedStep } from './Decisions';
import { FileStep } from './FileStep';
import { MapStep } from './MapStep';
import { MendStep } from './MendStep';
import { SortStep } from './SortStep';
import { TakeInStep } from './TakeInStep';
import { useJob } from '../../api/job';
import { useIntake, useIntakeDeeds, useStopJob, type Intake } from './queries';
import { layoutWords, states } from './words';

const steps = [
  { key: 'file', text: 'What', of: (i: Intake) => `${i.rows} rows` },
  { key: 'sort', text: 'Where', of: (i: Intake) => (i.counts['unsorted'] ? `${i.counts['unsorted']} unsorted` : 'all sorted') },
  { key: 'map', text: 'Map', of: (i: Intake) => (i.unmapped.length ? `${i.unmapped.length} fields open` : 'all mapped') },
  { key: 'mend', text: 'Mend', of: (i: Intake) => (i.causes.length ? `${i.causes.length} causes` : 'nothing wrong') },
  { key: 'decided', text: 'Decided', of: (i: Intake) => `${i.decisions['holds'] ?? 0} hold` },
  { key: 'take', text: 'Take in', of: (i: Intake) => `${(i.counts['new'] ?? 0) + (i.counts['update'] ?? 0)} parts` },
] as const;
type Step = (typeof steps)[number]['key'];

/** One intake from the file to the library: what, where, map, mend, take in, with the counts always in view. */
export function IntakePage() {
  const { id = '' } = useParams();
  const [params, setParams] = useSearchParams();
  const intake = useIntake(id);
  const i = intake.data;
  const may = useMay();
  if (intake.error && !intake.data) return <div className="p-4"><Trouble error={intake.error} /></div>; // prettier-ignore
  if (!i) return <Empty title="One moment…" />;
  const open = i.state === 'open';
  const step = (params.get('step') ?? (open && i.revision === 0 ? 'map' : 'mend')) as Step;
  const go = (change: Record<string, string>) =>
    setParams(Object.fromEntries(Object.entries({ ...Object.fromEntries(params), ...change }).filter(([, v]) => v)));
  return (
    <>
      <Stale of={intake} />
      <Looked kind="intake" id={i.id} number={i.number} what={`${i.supplier}: ${i.fileName}`} />
      <PageHead
        title={
          <>
            {i.number} <span className="font-normal text-soft">{i.supplier}</span>
          </>
        }
        sub={
          <span>
            <a className="underline" href={`/api/v1/files/${i.fileHash}?name=${encodeURIComponent(i.fileName)}`} download={i.fileName}>
              {i.fileName}
            </a>{' '}
            {i.over && `goes over ${i.over} again `}
            {i.layout && layoutWords(i.layout)}
          </span>
        }
      >
        <State of={i.state} />
        <Link className="text-sm underline" to={`/crosswalks?supplier=${encodeURIComponent(i.mapped || i.supplier)}&intake=${i.id}`}>
          Crosswalk
        </Link>
        {open && may('intake.take-in') && (
          <Button look="act" disabled={!!i.problem} onClick={() => go({ step: 'take', state: '', cause: '' })}>
            Take in…
          </Button>
        )}
      </PageHead>
      <JobLine job={i.job} />
      {(i.problem || i.notice) && (
        <div className="space-y-2 p-3">
          {i.problem && <Trouble error={new Error(i.problem)} />}
          {i.notice && <p className="rounded border border-amber bg-amber-tint px-3 py-1 text-sm">{i.notice}</p>}
        </div>
      )}
      {open && (
        <nav aria-label="Steps" className="flex flex-wrap gap-1 border-b border-line bg-sheet px-4 pt-1.5">
          {steps.map((s, n) => (
            <button
              key={s.key}
              type="button"
              aria-current={step === s.key ? 'step' : undefined}
              className="rounded-t border border-b-0 border-line px-3 py-1 text-sm aria-[current=step]:bg-tint aria-[current=step]:font-semibold"
              onClick={() => go({ step: s.key, state: '', cause: '' })}
            >
              {n + 1}. {s.text} <span className="text-xs text-soft">{s.of(i)}</span>
            </button>
          ))}
        </nav>
      )}
      <Counts intake={i} state={params.get('state') ?? ''} onState={(state) => go({ step: 'mend', state, cause: '' })} />
      {!open ? (
        <Made intake={i} />
      ) : step === 'file' ? (
        <FileStep intake={i} />
      ) : step === 'sort' ? (
        <SortStep intake={i} />
      ) : step === 'map' ? (
        <MapStep intake={i} />
      ) : step === 'decided' ? (
        <DecidedStep intake={i} />
      ) : step === 'take' ? (
        <TakeInStep intake={i} onShow={(state) => go({ step: 'mend', state, cause: '' })} />
      ) : (
        <MendStep
          intake={i}
          state={params.get('state') ?? ''}
          cause={params.get('cause') ?? ''}
          onShow={(v) => go({ step: 'mend', ...v })}
        />
      )}
    </>
  );
}

function Counts({ intake: i, state, onState }: { intake: Intake; state: string; onState: (s: string) => void }) {
  return (
    <div className="flex flex-wrap items-center gap-2 border-b border-line bg-ground px-4 py-1.5 text-sm" role="group" aria-label="Rows by state">
      <button type="button" aria-pressed={!state} disabled={i.state !== 'open'} className={pill} onClick={() => onState('')}>
        all {i.rows}
      </button>
      {states.map(
        (s) =>
          (i.counts[s] ?? 0) > 0 && (
            <button key={s} type="button" aria-pressed={state === s} disabled={i.state !== 'open'} className={pill} onClick={() => onState(state === s ? '' : s)}>
              <State of={s} more={String(i.counts[s])} />
            </button>
          ),
      )}
      {i.unmapped.length > 0 && (
        <span className="min-w-0 truncate text-soft" title={i.unmapped.join(', ')}>
          Not mapped, kept with the file: {i.unmapped.join(', ')}
        </span>
      )}
    </div>
  ); // prettier-ignore
}

/** What an intake made, and the ways on from there. */
function Made({ intake: i }: { intake: Intake }) {
  const may = useMay();
  const deeds = useIntakeDeeds(i.id);
  const navigate = useNavigate();
  const [asking, setAsking] = useState(false);
  const [why, setWhy] = useState('');
  const t = i.taken;
  const back = i.state === 'taken back';
  return (
    <div className="overflow-auto">
      <Empty title={back ? 'The intake was taken back' : `${t?.parts ?? 0} drafts were made, ${t?.updated ?? 0} parts changed`}>
        {!back && t?.first && (
          <>
            From {t.first} to {t.last}.{' '}
          </>
        )}
        {t?.revision ? `Its changes are the crosswalk’s revision ${t.revision}. ` : ''}
        {!back && (
          <Link className="underline" to={`/parts?status=draft&f=${encodeURIComponent(`intake:${i.number}`)}`}>
            Look at the drafts and release them
          </Link>
        )}
      </Empty>
      {!back && t && t.numbers.length + t.changed.length > 0 && (
        <div className="mx-6 flex flex-wrap gap-x-3 gap-y-1 text-sm">
          {[...t.numbers, ...t.changed].map((n) => (
            <Link key={n} className="underline" to={`/parts/${encodeURIComponent(n)}`}>
              {n}
            </Link>
          ))}
          {t.parts + t.updated > t.numbers.length + t.changed.length && <span className="text-soft">and more</span>}
        </div>
      )}
      {!back && t && may('thing.move') && <StatedMoves intake={i} stated={t.stated ?? {}} />}
      {!back && (
        <div className="m-6 flex flex-wrap gap-2">
          {may('intake.edit') && (
            <Button disabled={deeds.again.isPending} onClick={() => deeds.again.mutate(undefined, { onSuccess: (n) => void navigate(`/intakes/${n.id}`) })}>
              Go over it again
            </Button>
          )}
          {may('intake.edit') && (
            <Button disabled={deeds.fetch.isPending} onClick={() => deeds.fetch.mutate()}>
              Fetch the datasheets that its parts link to
            </Button>
          )}
          {may('intake.take-in') && (
            <Button look="danger" onClick={() => setAsking(true)}>
              Take it back…
            </Button>
          )}
          <Trouble error={deeds.again.error ?? deeds.fetch.error} />
        </div>
      )}
      {asking && (
        <Dialog open title={`Take ${i.number} back`} onClose={() => setAsking(false)}>
          <form
            className="space-y-3 text-sm"
            onSubmit={(e) => {
              e.preventDefault();
              deeds.takeBack.mutate({ version: i.version, why }, { onSuccess: () => setAsking(false) });
            }}
          >
            <p>
              <strong>{t?.parts ?? 0} drafts</strong> will be no parts of the library any more, and {t?.updated ?? 0} parts get the draft that
              they had before. That is possible as long as nobody has built on any of them. The file and the trail stay.
            </p>
            <Field label="Why" required value={why} onChange={(e) => setWhy(e.target.value)} />
            <Trouble error={deeds.takeBack.error} />
            <Button look="danger" type="submit" disabled={!why || deeds.takeBack.isPending}>
              Take back {t?.parts ?? 0} drafts
            </Button>
          </form>
        </Dialog>
      )}
    </div>
  ); // prettier-ignore
}

/** What the supplier states of parts that were made, and moving them there. */
function StatedMoves({ intake: i, stated }: { intake: Intake; stated: Record<string, number> }) {
  const { stated: move } = useIntakeDeeds(i.id);
  const [to, setTo] = useState<Schemas['MoveStated']['stated']>();
  const [note, setNote] = useState('');
  return (
    <div className="mx-6 mt-4 space-y-1 text-sm">
      {Object.entries(stated).map(([s, n]) => (
        <p key={s} className="flex flex-wrap items-center gap-2">
          The supplier says {s} of {n === 1 ? 'one part' : `${n} parts`}.
          <Button onClick={() => setTo(s as typeof to)}>{n === 1 ? 'Move it there…' : 'Move them there…'}</Button>
        </p>
      ))}
      <p role="status">{move.data && `${move.data.things} moved.`}</p>
      {to && (
        <Dialog open title={`Move to ${to}`} onClose={() => setTo(undefined)}>
          <form
            className="space-y-3"
            onSubmit={(e) => {
              e.preventDefault();
              move.mutate({ stated: to, note }, { onSuccess: () => setTo(undefined) });
            }}
          >
            <p>All that the file says it of and that are not {to} yet. Their lifecycle says who may, and what must be true first.</p>
            <Field label="Reason" required value={note} onChange={(e) => setNote(e.target.value)} />
            <Trouble error={move.error} />
            <Button look="act" type="submit" disabled={move.isPending}>
              Move them
            </Button>
          </form>
        </Dialog>
      )}
    </div>
  );
}

function JobLine({ job }: { job?: Schemas['Job'] }) {
  const live = job && (job.state === 'waiting' || job.state === 'running');
  const now = useJob(live ? job.id : undefined);
  const stop = useStopJob();
  const j = now.data ?? job;
  if (!j) return null;
  if (j.state === 'failed' || j.state === 'stopped') return <div className="p-3"><Trouble error={new Error(j.error ?? '')} /></div>; // prettier-ignore
  if (j.state === 'done')
    return j.fetched && job?.state === 'done' ? (
      <p className="border-b border-line bg-tint px-4 py-1 text-sm">
        Datasheets: {j.fetched.links} links led to {j.fetched.files} files; {j.fetched.dead} led to none.
      </p>
    ) : null;
  const sheets = j.kind === 'datasheets';
  return (
    <div className="flex items-center gap-3 border-b border-line bg-tint px-4 py-2 text-sm" aria-live="polite">
      <progress className="w-64" aria-label={sheets ? 'Datasheets fetched' : 'Parts taken in'} max={j.total || 1} value={j.done} />
      {sheets ? 'Fetching datasheets' : 'Taking in'}: {j.done} of {j.total} {sheets ? 'links' : 'parts'}. You may leave this page.
      <Button onClick={() => stop.mutate(j.id)}>Stop</Button>
    </div>
  );
}
