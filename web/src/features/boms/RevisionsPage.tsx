import { useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { Stale } from '../../ui/asked';
import { Button, Empty, LifeState, PageHead, Select, Trouble } from '../../ui/kit';
import { LifePanel } from '../lifecycles';
import { useMay } from '../people';
import { FreezeDialog } from './FreezeDialog';
import { useBom, useBomRevisions, useBoms } from './queries';
import { BomTabs } from './tabs';

/** Says which BOM and revision a choice means: "name@2", or the name alone for the BOM as it is now. */
const where = (name: string, revision: number) => (revision ? `${name}@${String(revision)}` : name);

/** The revisions of a BOM, and what is laid beside each other. */
export function RevisionsPage() {
  const { key = '' } = useParams();
  const bom = useBom(key);
  const revisions = useBomRevisions(key);
  const boms = useBoms();
  const may = useMay();
  const go = useNavigate();
  const [params, setParams] = useSearchParams();
  const freezing = params.get('freeze') !== null;
  const setFreezing = (on: boolean) =>
    setParams((p) => {
      if (on) p.set('freeze', '');
      else p.delete('freeze');
      return p;
    });
  const [from, setFrom] = useState<string>();
  const [to, setTo] = useState('');
  if (bom.error && !bom.data) return <div className="p-4"><Trouble error={bom.error} /></div>; // prettier-ignore
  const b = bom.data;
  if (!b) return <Empty title="One moment…" />;
  const all = revisions.data?.items ?? [];
  const first = from ?? String(all[0]?.revision ?? 0);
  const others = (boms.data?.items ?? []).filter((o) => o.id !== b.id);
  return (
    <>
      <Stale of={revisions} />
      <PageHead title={b.name} sub={all.length === 0 ? 'Not frozen yet' : `Revision ${b.states.label} is the newest`}>
        {may('bom.freeze') && (
          <Button look="act" onClick={() => setFreezing(true)}>
            Freeze…
          </Button>
        )}
      </PageHead>
      <BomTabs name={b.name} />
      <Trouble error={revisions.error} />
      <div className="grid content-start items-start gap-4 overflow-auto p-4 lg:grid-cols-[minmax(0,1fr)_24rem]">
        <div className="space-y-4">
          {revisions.data && all.length === 0 && (
            <Empty title="Nothing is frozen yet">
              A revision pins every line to the exact revision of its part, so that what was built can be told from what the library says
              later.
            </Empty>
          )}
          {all.length > 0 && (
            <table className="w-full max-w-4xl text-sm">
              <thead>
                <tr className="text-left text-xs text-soft">
                  <th className="py-1 pr-3">Revision</th>
                  <th className="pr-3">State</th>
                  <th className="pr-3">Note</th>
                  <th className="pr-3">By</th>
                  <th className="pr-3">When</th>
                  <th>Hash</th>
                </tr>
              </thead>
              <tbody>
                {all.map((r) => (
                  <tr key={r.revision} className="border-t border-line/60">
                    <th scope="row" className="py-1 pr-3 text-left">
                      <Link className="font-semibold underline" to={`/boms/${encodeURIComponent(b.name)}/revisions/${String(r.revision)}`}>
                        {r.label}
                      </Link>
                    </th>
                    <td className="pr-3 whitespace-nowrap" title={r.why}>
                      <LifeState of={r.state} />
                    </td>
                    <td className="pr-3 break-words">{r.note}</td>
                    <td className="pr-3 whitespace-nowrap">{r.by}</td>
                    <td className="pr-3 whitespace-nowrap">{new Date(r.at).toLocaleString()}</td>
                    <td className="font-mono text-xs" title={r.hash}>
                      {r.hash.slice(0, 12)}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          <form
            className="flex flex-wrap items-end gap-3"
            onSubmit={(e) => {
              e.preventDefault();
              const [, other = '', revision = '0'] = /^(.*?)(?:@(\d+))?$/.exec(to || b.name) ?? [];
              const q = new URLSearchParams({ revision: first, with: other, to: revision });
              void go(`/boms/${encodeURIComponent(b.name)}/compare?${q.toString()}`);
            }}
          >
            <div className="w-56">
              <Select label="Lay" value={first} onChange={(e) => setFrom(e.target.value)}>
                {all.map((r) => (
                  <option key={r.revision} value={r.revision}>
                    revision {r.label}: {r.note}
                  </option>
                ))}
                <option value="0">{b.name} as it is now</option>
              </Select>
            </div>
            <div className="w-64">
              <Select label="beside" value={to} onChange={(e) => setTo(e.target.value)}>
                <option value="">{b.name} as it is now</option>
                {all.map((r) => (
                  <option key={r.revision} value={where(b.name, r.revision)}>
                    revision {r.label}: {r.note}
                  </option>
                ))}
                {others.map((o) => (
                  <option key={o.id} value={o.name}>
                    {o.name}
                  </option>
                ))}
              </Select>
            </div>
            <Button type="submit">Compare</Button>
          </form>
        </div>
        <LifePanel id={b.id} name={b.name} onRelease={() => setFreezing(true)} />
      </div>
      {freezing && <FreezeDialog bom={b} at={key} onClose={() => setFreezing(false)} />}
    </>
  );
}
