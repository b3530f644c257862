import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { api, take, type Schemas } from '../../api/client';
import { Drawing } from '../../ui/drawing';
import { Button, Dialog, Empty, Field, PageHead, Panel, Select, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { ModelTabs } from './ModelList';
import { preview, useDeed, parts } from './queries';

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
      <PageHead title="Twins" sub="Models that draw the same, or land patterns whose pads differ by less than 0.05 mm">
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
  const how = cluster.exact
    ? 'draw the same'
    : cluster.most === '0'
      ? 'have the same pads'
      : `have the same pads within ${cluster.most} mm`;
  return (
    <Panel
      title={`${cluster.models.length} ${cluster.kind}s ${how}`}
      actions={
        may('model.release') && (
          <Button look="act" onClick={() => setMerging(true)}>
            Merge…
          </Button>
        )
      }
    >
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
          <p className="text-sm text-amber">
            ▲ They do not draw quite the same: the largest difference of the pads is {cluster.most} mm, and outlines may differ.
          </p>
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
