import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { api, take } from '../../api/client';
import { Button, Empty, Field, PageHead, Panel, Select, State, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { ModelTabs } from './ModelList';
import { kinds, useDeed } from './queries';

/** What the checks say of all models, by cause; one click settles a cause on all of them. */
export function ModelChecks() {
  const [params, setParams] = useSearchParams();
  const kind = params.get('kind') ?? '';
  const say = useSay();
  const may = useMay();
  const [note, setNote] = useState('');
  const causes = useQuery({
    queryKey: ['model-causes', kind],
    queryFn: () => take(api.GET('/api/v1/model-causes', { params: { query: { kind: kind as '' | 'symbol' } } })),
  });
  const mend = useDeed(
    (cause: string) => {
      const seen = causes.data?.causes.find((c) => c.cause === cause)?.models ?? [];
      const versions = Object.fromEntries(seen.map((m) => [m.id, m.version]));
      return take(api.POST('/api/v1/model-mends', { body: { cause, models: [], note: note || undefined, versions } }));
    },
    (r) =>
      say(
        `${r.models.length} models mended${note ? ' and released' : ' as drafts'}.${r.left.length ? ` ${r.left.length} left as they were.` : ''}`,
      ),
  );
  return (
    <>
      <PageHead title="Checks" sub={`${causes.data?.models ?? '…'} models under the house's drawing rules`}>
        <Select label="Kind" hideLabel value={kind} onChange={(e) => setParams(e.target.value ? { kind: e.target.value } : {})}>
          <option value="">all kinds</option>
          {kinds.map((k) => (
            <option key={k}>{k}</option>
          ))}
        </Select>
        {may('model.release') && (
          <Field
            label="Release note"
            hideLabel
            placeholder="Release note; blank leaves drafts"
            value={note}
            onChange={(e) => setNote(e.target.value)}
          />
        )}
      </PageHead>
      <ModelTabs at="/models/checks" />
      <div className="min-h-0 flex-1 space-y-3 overflow-auto p-4">
        <Trouble error={causes.error ?? mend.error} />
        {causes.data?.causes.length === 0 && (
          <Empty title="Nothing to say">
            All models are as the house wants them. The rules are in the cabinet&apos;s document, under house.
          </Empty>
        )}
        {causes.data?.causes.map((c) => (
          <Panel
            key={c.cause}
            title={
              <span className="flex flex-wrap items-center gap-2">
                <State of={c.severity} /> {c.count} models: {c.what}
              </span>
            }
            actions={
              c.click &&
              c.count > 0 &&
              may('model.edit') && (
                <Button look="act" disabled={mend.isPending} onClick={() => mend.mutate(c.cause)}>
                  {c.click} on all {c.count}
                </Button>
              )
            }
          >
            <p className="text-sm">
              {c.models.slice(0, 30).map((m, i) => (
                <span key={m.id}>
                  {i > 0 && ', '}
                  <Link className="underline" to={`/models/${m.id}`}>
                    {m.name}
                  </Link>
                </span>
              ))}
              {c.count > 30 && ` and ${c.count - 30} more`}
              {(c.waived ?? 0) > 0 && <span className="text-soft"> · accepted on {c.waived} more</span>}
            </p>
          </Panel>
        ))}
      </div>
    </>
  );
}
