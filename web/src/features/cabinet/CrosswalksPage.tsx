import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { api, ApiError, based, take, type Schemas } from '../../api/client';
import { useAct } from '../../api/write';
import { Button, Dialog, Empty, PageHead, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { Offer, useTyped } from '../../ui/unsaved';
import { MovedTable } from '../intakes';
import { useMay } from '../people';

/** Crosswalks by supplier, edited as documents. */
export function CrosswalksPage() {
  const [params, setParams] = useSearchParams();
  const all = useQuery({
    queryKey: ['crosswalks'],
    queryFn: () => take(api.GET('/api/v1/crosswalks', { params: { query: { limit: 500 } } })),
  });
  const supplier = params.get('supplier') ?? all.data?.items[0]?.number ?? '';
  const intake = params.get('intake') ?? '';
  const one = useQuery({
    queryKey: ['crosswalk', supplier],
    enabled: supplier !== '',
    queryFn: async () => {
      try {
        return await take(api.GET('/api/v1/crosswalks/{key}', { params: { path: { key: supplier } } }));
      } catch (e) {
        if (e instanceof ApiError && e.status === 404) return null;
        throw e;
      }
    },
  });
  const from = useQuery({
    queryKey: ['intake', intake],
    enabled: intake !== '' && one.data === null,
    queryFn: () => take(api.GET('/api/v1/intakes/{id}', { params: { path: { id: intake } } })),
  });
  const names = [...new Set([...(all.data?.items.map((c) => c.number) ?? []), ...(supplier ? [supplier] : [])])];
  const started = one.data ? one.data.text : one.data === null && (!intake || from.data) ? draft(supplier, from.data) : undefined;
  return (
    <>
      <PageHead title="Crosswalks" sub="Which fields of a supplier’s files fill which parameters: said once, used by every later intake." />
      <Trouble error={all.error ?? one.error ?? from.error} />
      {names.length === 0 ? (
        all.isSuccess && (
        <Empty title="No crosswalk yet">Bring in a supplier’s file by an <Link className="underline" to="/intakes">intake</Link>: it suggests a mapping to begin with.</Empty>
        )
      ) : (
        <div className="grid min-h-0 flex-1 grid-cols-1 md:grid-cols-[16rem_1fr]">
          <nav aria-label="Suppliers" className="overflow-auto border-r border-line bg-ground p-2 text-sm">
            {names.map((n) => (
              <button key={n} type="button" aria-current={n === supplier} className="block w-full rounded px-2 py-1 text-left hover:bg-sheet aria-[current=true]:bg-sheet aria-[current=true]:font-semibold" onClick={() => setParams({ supplier: n })}>
                {n}
              </button>
            ))}
          </nav>
          {started !== undefined && <Editor key={supplier} supplier={supplier} version={one.data?.version ?? 0} revision={one.data?.revision ?? 0} text={started} intake={intake} />}
        </div>
      )}
    </>
  ); // prettier-ignore
}

/** A first crosswalk from what an intake suggests. */
function draft(supplier: string, intake?: Schemas['Intake']) {
  const taken = (intake?.suggestions ?? []).filter((s) => s.to.startsWith('take.'));
  const fields = (intake?.suggestions ?? []).filter((s) => !s.to.startsWith('take.'));
  const q = (s: string) => JSON.stringify(s);
  return [
    'format: jolly-crosswalk/1',
    `supplier: ${q(intake?.supplier ?? supplier)}`,
    ...(intake?.crosswalk?.layout ? [`layout: ${q(intake.crosswalk.layout)}`] : []),
    '# decimalMark: comma',
    `take: { ${taken.map((s) => `${s.to.slice(5)}: ${q(s.from)}`).join(', ')} }`,
    '# every kind of the supplier goes into a drawer; or name one drawer for all rows',
    'kinds: {}',
    'drawer: ""',
    fields.length > 0 ? 'fields:' : 'fields: []',
    ...fields.map((s) => `  - { from: ${q(s.from)}, to: ${s.to} } # ${s.reason}`),
    ...(intake?.fields ?? [])
      .filter((f) => !(intake?.suggestions ?? []).some((s) => s.from === f))
      .map((f) => `  # - { from: ${q(f)}, to: … }`),
    '',
  ].join('\n');
}

function Editor({
  supplier,
  version,
  revision,
  text,
  intake,
}: {
  supplier: string;
  version: number;
  revision: number;
  text: string;
  intake: string;
}) {
  // The text that was begun with, and its version: a colleague's save does not take their place while something is typed.
  const [base, setBase] = useState({ text, version });
  const [value, setValue] = useState(text);
  const [beside, setBeside] = useState(false);
  const changed = value !== base.text;
  const newer = version !== base.version;
  if (newer && !changed) {
    setBase({ text, version });
    setValue(text);
  }
  const { kept, typed, settled, leaving } = useTyped<string>(`crosswalk ${supplier}`, base.version);
  const type = (now: string) => {
    setValue(now);
    typed(now === base.text ? undefined : now);
  };
  const queries = useQueryClient();
  const may = useMay();
  const say = useSay();
  const [touches, setTouches] = useState<Schemas['CrosswalkTried']>();
  const look = useAct({ mutationFn: () => take(api.POST('/api/v1/crosswalks/try', { body: { text: value } })) });
  const apply = useAct({
    mutationFn: (evenSettled: boolean) =>
      take(
        api.PUT('/api/v1/crosswalks', {
          params: { header: based(base.version) },
          body: { text: value, ...(evenSettled ? { evenSettled } : {}) },
        }),
      ),
    onSuccess: (c) => {
      setTouches(undefined);
      say(`The crosswalk of ${c.number} is applied as revision ${c.revision}.`);
      settled();
      setBase({ text: value, version: c.version });
      void queries.invalidateQueries({ queryKey: ['crosswalk', supplier] });
    },
  });
  return (
    <form
      className="flex min-h-0 flex-col gap-2 p-4"
      onSubmit={(e) => {
        e.preventDefault();
        // What rows of open intakes would become stands before it is applied; where none changes there is nothing to look at.
        look.mutate(undefined, { onSuccess: (t) => (t.intakes.length > 0 ? setTouches(t) : apply.mutate(false)) });
      }}
    >
      <div className="flex items-center gap-3">
        <label htmlFor="crosswalk" className="flex-1 text-sm font-semibold">
          {supplier} <span className="font-normal text-soft">{revision ? `revision ${revision}` : 'not applied yet'}</span>
        </label>
        {intake && (
          <Link className="text-sm underline" to={`/intakes/${intake}`}>
            Back to the intake
          </Link>
        )}
        {may('crosswalk.apply') && (
          <Button look="act" type="submit" disabled={apply.isPending || look.isPending || (!changed && revision > 0)}>
            Apply
          </Button>
        )}
      </div>
      {!changed && (
        <Offer kept={kept} version={base.version} what={`the crosswalk of ${supplier}`} onDrop={settled} onTake={(k) => type(k.value)} />
      )}
      {leaving}
      {newer && changed && (
        <div role="status" className="flex flex-wrap items-center gap-2 rounded border border-amber bg-amber-tint px-3 py-1.5 text-sm">
          <span className="min-w-0 flex-1">
            <span aria-hidden="true">◐ </span>Somebody else applied revision {revision} meanwhile. What you typed is still here.
          </span>
          <Button onClick={() => setBeside(!beside)}>{beside ? 'Hide theirs' : 'Show theirs beside'}</Button>
          <Button onClick={() => setBase({ text, version })}>Mine goes over theirs</Button>
          <Button
            look="danger"
            onClick={() => {
              settled();
              setBase({ text, version });
              setValue(text);
            }}
          >
            Discard mine
          </Button>
        </div>
      )}
      <Trouble error={look.error ?? apply.error} />
      {touches && (
        <Touches t={touches} busy={apply.isPending} error={apply.error} onApply={apply.mutate} onClose={() => setTouches(undefined)} />
      )}
      {beside && newer && (
        <textarea
          aria-label="As somebody else applied it"
          readOnly
          value={text}
          className="min-h-40 flex-1 resize-none rounded border border-line bg-tint p-3 font-mono text-xs leading-5"
        />
      )}
      <textarea
        id="crosswalk"
        spellCheck={false}
        readOnly={!may('crosswalk.apply')}
        value={value}
        onChange={(e) => type(e.target.value)}
        className="min-h-80 flex-1 resize-none rounded border border-line bg-sheet p-3 font-mono text-xs leading-5"
      />
    </form>
  );
}

/** The rows of open intakes that a crosswalk would change, before it is applied. */
function Touches({
  t,
  busy,
  error,
  onApply,
  onClose,
}: {
  t: Schemas['CrosswalkTried'];
  busy: boolean;
  error: unknown;
  onApply: (evenSettled: boolean) => void;
  onClose: () => void;
}) {
  const settled = t.intakes.reduce((n, i) => n + i.tried.settled, 0);
  return (
    <Dialog open wide title={`What ${t.number} changes in open intakes`} onClose={onClose}>
      {t.intakes.map((i) => (
        <section key={i.id} className="mb-3">
          <h3 className="mb-1 text-sm font-semibold">
            {i.number} {i.fileName}: {i.tried.rows === 1 ? '1 row' : `${i.tried.rows} rows`}
            {i.tried.settled > 0 && `, ${i.tried.settled} of them settled before`}
          </h3>
          <MovedTable moved={i.tried.moved} />
        </section>
      ))}
      <Trouble error={error} />
      <div className="flex flex-wrap gap-2">
        <Button look={settled > 0 ? 'danger' : 'act'} disabled={busy} onClick={() => onApply(settled > 0)}>
          {settled > 0 ? `Apply it, ${settled === 1 ? 'the settled row' : `${settled} settled rows`} too` : 'Apply it'}
        </Button>
        <Button onClick={onClose}>Leave all as it is</Button>
      </div>
    </Dialog>
  );
}
