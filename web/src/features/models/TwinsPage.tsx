import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { api, take, type Schemas } from '../../api/client';
import { Drawing } from '../../ui/drawing';
import { Button, Dialog, Empty, Field, PageHead, Panel, Select, Trouble } from '../../ui/kit';
import { preview } from '../../ui/previews';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { ModelTabs } from './ModelList';
import { useDeed, parts } from './queries';

type Cluster = Schemas['Twins'];

export function TwinsPage() {
  const [params, setParams] = useSearchParams();
  const kind = params.get('kind') ?? '';
  const twins = useQuery({
    queryKey: ['twins', kind],
    queryFn: () => take(api.GET('/api/v1/model-twins', { params: { query: { kind: kind as '' | 'symbol' | 'land pattern' } } })),
  });
  const clusters = twins.data?.clusters ?? [];
  return (
    <>
      <PageHead title="Twins" sub="Models that are the same on a board, or nearly so: what differs is said">
        <Select label="Kind" hideLabel value={kind} onChange={(e) => setParams(e.target.value ? { kind: e.target.value } : {})}>
          <option value="">symbols and land patterns</option>
          <option>symbol</option>
          <option>land pattern</option>
        </Select>
      </PageHead>
      <ModelTabs at="/models/twins" />
      <div className="min-h-0 flex-1 space-y-3 overflow-auto p-4">
        <Trouble error={twins.error} />
        {twins.data && clusters.length === 0 && <Empty title="No twins">Every drawing is in the library once.</Empty>}
        {clusters.map((c) => (
          <ClusterPanel key={c.models[0]?.id} cluster={c} />
        ))}
      </div>
    </>
  );
}

function ClusterPanel({ cluster }: { cluster: Cluster }) {
  const may = useMay();
  const [keep, setKeep] = useState(cluster.models[0]?.id ?? '');
  const [merging, setMerging] = useState(false);
  return (
    <Panel
      title={`${cluster.models.length} ${cluster.kind}s ${cluster.exact ? 'are the same' : 'are nearly the same'}`}
      actions={
        may('model.release') && (
          <Button look="act" onClick={() => setMerging(true)}>
            Merge…
          </Button>
        )
      }
    >
      {!cluster.exact && (
        <p className="mb-2 text-sm">
          <span aria-hidden>◆ </span>What differs: {cluster.what.join('; ')}.
        </p>
      )}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(11rem,1fr))] gap-2">
        {cluster.models.map((m) => (
          <li key={m.id} className={`rounded border p-2 text-sm ${keep === m.id ? 'border-water bg-tint' : 'border-line'}`}>
            <div className="h-20">
              <Drawing src={preview(m.id, m.content, true)} alt={`Drawing of ${m.name}`} />
            </div>
            <Link className="block truncate font-semibold underline" to={`/models/${m.id}`} title={m.name}>
              {m.name}
            </Link>
            <p className="text-xs text-soft">
              {parts(m.uses)} · {m.status} {m.revision || ''}
            </p>
            <label className="flex gap-1.5 text-xs">
              <input type="radio" name={`keep-${cluster.models[0]?.id}`} checked={keep === m.id} onChange={() => setKeep(m.id)} /> keep this
              one
            </label>
          </li>
        ))}
      </ul>
      {merging && <MergeDialog cluster={cluster} keep={keep} onClose={() => setMerging(false)} />}
    </Panel>
  );
}

function MergeDialog({ cluster, keep, onClose }: { cluster: Cluster; keep: string; onClose: () => void }) {
  const say = useSay();
  const [why, setWhy] = useState('');
  const [all, setAll] = useState(true);
  const [different, setDifferent] = useState<string[]>([]);
  const survivor = cluster.models.find((m) => m.id === keep);
  const gone = cluster.models.filter((m) => m.id !== keep);
  const users = gone.reduce((n, m) => n + m.uses, 0);
  const merge = useDeed(
    () =>
      take(
        api.POST('/api/v1/model-merges', {
          body: {
            keep,
            gone: gone.map((m) => m.id),
            why,
            moveAll: all,
            different,
            versions: Object.fromEntries(cluster.models.map((m) => [m.id, m.version])),
          },
        }),
      ),
    (r) => {
      say(`Merged into ${survivor?.name}: ${r.models.join(', ')}. Parts with a new draft: ${r.parts.length}.`);
      onClose();
    },
  );
  return (
    <Dialog open title={`Merge into ${survivor?.name}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          merge.mutate(undefined);
        }}
      >
        <p className="text-sm">
          {gone.map((m) => m.name).join(', ')} will lead to <strong>{survivor?.name}</strong>. What is released stays as it was.
        </p>
        {!cluster.exact && (
          <fieldset className="text-sm">
            <legend className="text-amber">
              ▲ Not all are the same as the survivor. Those that differ are merged only where you say so:
            </legend>
            {gone.map((m) => (
              <label key={m.id} className="flex gap-2">
                <input
                  type="checkbox"
                  checked={different.includes(m.id)}
                  onChange={(e) => setDifferent((was) => (e.target.checked ? [...was, m.id] : was.filter((id) => id !== m.id)))}
                />
                {m.name} although it may differ: {parts(m.uses)}
              </label>
            ))}
          </fieldset>
        )}
        <label className="flex gap-2 text-sm">
          <input type="checkbox" checked={all} onChange={(e) => setAll(e.target.checked)} />
          Whoever uses them takes the survivor, as a new draft: {parts(users)}
        </label>
        <Field label="Why" required maxLength={500} value={why} onChange={(e) => setWhy(e.target.value)} />
        <Trouble error={merge.error} />
        <Button look="act" type="submit" disabled={merge.isPending}>
          Merge {gone.length}
        </Button>
      </form>
    </Dialog>
  );
}
