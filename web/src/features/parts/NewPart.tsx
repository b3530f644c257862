import { useCabinet } from '../cabinet/queries';
import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { backWith } from '../../ui/back';
import { Choose } from '../../ui/choose';
import { Chip, Empty, PageHead } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { PartForm } from './PartForm';
import { cameFrom, ReadNotes, ReadPanel, type Read } from './Reading';
import { Offer, useTyped } from '../../ui/unsaved';
import { useAlike, useCopy, useMakePart, type Edit } from './queries';

/** Makes a part by hand from a template, or by copying one that is nearly the same. */
export function NewPart() {
  const [params, setParams] = useSearchParams();
  const from = params.get('copy') ?? '';
  const wanted = params.get('want') ?? ''; // the want that the part answers
  const back = params.get('back') ?? ''; // the board whose line asks for it
  const source = useCopy(from);
  const cabinet = useCabinet();
  const make = useMakePart();
  const navigate = useNavigate();
  const say = useSay();
  const copied = from ? source.data : undefined;
  const [read, setRead] = useState<Read>();
  const [taken, setTaken] = useState<Edit>();
  const key = copied?.drawer ?? params.get('drawer') ?? taken?.drawer ?? read?.drawer ?? '';
  const drawers = cabinet.data?.drawers.filter((d) => d.leaf) ?? [];
  const drawer = drawers.find((d) => d.key === key);
  const start = copied ?? { drawer: key, values: {} };
  const defaults = Object.fromEntries((drawer?.slots ?? []).filter((s) => s.default).map((s) => [s.key, s.default ?? '']));
  const pasted = {
    ...start,
    values: { ...defaults, ...Object.fromEntries((read?.values ?? []).filter((v) => !v.problem).map((v) => [v.key, v.value])) },
    sources: read?.source.mpn ? [read.source] : [],
    came: read ? cameFrom(read) : undefined,
  };
  const begin = taken && taken.drawer === key ? taken : copied ? start : pasted;
  const [values, setValues] = useState<Record<string, string>>();
  const { kept, typed, settled, leaving } = useTyped<Edit>(from ? `copy of ${from}` : 'new part', 0);
  const alike = useAlike({ drawer: drawer?.key ?? '', values: values ?? begin.values ?? {} });
  return (
    <>
      <PageHead
        title={from ? `Copy of ${from}` : 'Make a part'}
        sub={
          wanted
            ? `What ${wanted} says is filled in: read it, choose the drawer, and save; then answer the want with it.`
            : from
              ? 'Change the fields that differ; sources and datasheets are not copied.'
              : 'Paste what you have, or choose its drawer and fill in what you know.'
        }
      />
      <div className="min-h-0 flex-1 space-y-3 overflow-auto p-4">
        {!taken && <Offer kept={kept} version={0} what="a new part" onDrop={settled} onTake={(k) => setTaken(k.value)} />}
        {leaving}
        {!from && !read && <ReadPanel drawer={params.get('drawer') ?? undefined} start={params.get('read') ?? ''} onRead={setRead} />}
        {read && (
          <div className="rounded border border-line bg-sheet p-3">
            <ReadNotes read={read} />
          </div>
        )}
        {!from && (
          <div className="max-w-sm">
            <p className="mb-0.5 text-xs font-semibold text-soft">Drawer</p>
            <Choose
              label="Drawer"
              text={drawer ? drawer.label : 'choose…'}
              value={key}
              onChoose={(d) => setParams({ drawer: d, ...(wanted ? { want: wanted } : {}), ...(back ? { back } : {}) })}
              options={drawers.map((d) => ({
                value: d.key,
                text: d.path.length > 1 ? `${d.label} (${d.path.slice(0, -1).join(' / ')})` : d.label,
              }))}
            />
          </div>
        )}
        {cabinet.data && drawers.length === 0 && <Empty title="There is no cabinet yet">Apply one: jolly cabinet apply FILE.</Empty>}
        {drawer && (alike.data?.length ?? 0) > 0 && (
          <p role="status" className="rounded border border-amber bg-amber-tint px-3 py-2 text-sm">
            <Chip tone="open">alike</Chip> As it stands this part equals{' '}
            {alike.data?.map((n) => (
              <Link key={n} className="mr-1 underline" to={`/parts/${encodeURIComponent(n)}`}>
                {n}
              </Link>
            ))}
            in every parameter that identifies a part of this drawer (
            {drawer.identity.map((k) => drawer.slots.find((s) => s.key === k)?.label ?? k).join(', ')}
            ). Change one of them, or use that part.
          </p>
        )}
        {drawer && (
          <PartForm
            key={drawer.key + String(read?.values.length) + String(taken !== undefined)}
            drawer={drawer}
            start={begin}
            fresh
            onTyped={setValues}
            onChanged={(e) => typed(e ?? taken)}
            busy={make.isPending}
            error={make.error}
            saveText="Save as a draft"
            onCancel={() => void navigate(-1)}
            onSave={(e) =>
              make.mutate(e, {
                onSuccess: (p) => {
                  settled();
                  say(`${p.number} is saved as a draft. Others see it as released only after its release.`);
                  void navigate(wanted ? `/wants/${wanted}?part=${encodeURIComponent(p.number)}` : backWith(params, p.number));
                },
              })
            }
          />
        )}
      </div>
    </>
  );
}
