import { useQuery } from '@tanstack/react-query';
import { useId, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api, based, take, type Schemas } from '../../api/client';
import { Drawing } from '../../ui/drawing';
import { Stale } from '../../ui/asked';
import { Button, Chip, Dialog, Empty, Field, PageHead, Panel, Select, Trouble } from '../../ui/kit';
import { preview } from '../../ui/previews';
import { DataTable, type Column } from '../../ui/table';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { ModelTabs } from './ModelList';
import { deliver, useDeed, type Delivery, parts } from './queries';

type Delivered = Delivery['models'][number];

const columns: Column<Delivery>[] = [
  { key: 'number', head: 'Number', width: 110, cell: (d) => <span className="font-semibold">{d.number}</span> },
  { key: 'name', head: 'Name', width: 300, grow: true, cell: (d) => d.name },
  { key: 'part', head: 'For the part', width: 140, cell: (d) => d.part },
  { key: 'files', head: 'Files', width: 70, cell: (d) => d.files.length },
  { key: 'used', head: 'Models used', width: 110, cell: (d) => d.count },
  { key: 'updated', head: 'Changed', width: 180, cell: (d) => new Date(d.updated).toLocaleString() },
];

/** Where model files are dropped or chosen: archives, libraries, single files in any mix. */
export function DropZone({ part, onDone, small }: { part?: string; onDone: (d: Delivery) => void; small?: boolean }) {
  const id = useId();
  const [over, setOver] = useState(false);
  const bring = useDeed((files: File[]) => deliver(files, part), onDone);
  const send = (list: FileList | null) => {
    if (list && list.length > 0) bring.mutate(Array.from(list));
  };
  return (
    <div
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        send(e.dataTransfer.files);
      }}
      className={`rounded border border-dashed p-2 text-sm ${over ? 'border-water bg-tint' : 'border-line'}`}
    >
      <label htmlFor={id} className="block text-xs font-semibold text-soft">
        {small
          ? 'Drop model files here'
          : 'Drop archives, libraries or single files here: EDIF, IPC-2581, IBIS, STEP, pin tables, PDF, our own form'}
      </label>
      <input id={id} type="file" multiple className="mt-1 w-full text-sm" onChange={(e) => send(e.target.files)} />
      {bring.isPending && (
        <p role="status" className="text-xs">
          Reading the files…
        </p>
      )}
      <Trouble error={bring.error} />
    </div>
  );
}

export function DeliveryList() {
  const navigate = useNavigate();
  const may = useMay();
  const list = useQuery({
    queryKey: ['deliveries'],
    queryFn: () => take(api.GET('/api/v1/deliveries', { params: { query: { limit: 500 } } })),
  });
  return (
    <>
      <PageHead title="Deliveries" sub="Model files as they were handed over; the originals are kept" />
      <ModelTabs at="/deliveries" />
      {may('model.edit') && (
        <div className="px-4 pt-3">
          <DropZone onDone={(d) => void navigate(`/deliveries/${d.number}`)} />
        </div>
      )}
      <Trouble error={list.error} />
      <div className="min-h-0 flex-1 pt-3">
        <DataTable
          label="Deliveries"
          rows={list.data?.items ?? []}
          columns={columns}
          rowKey={(d) => d.id}
          onOpen={(d) => void navigate(`/deliveries/${d.number}`)}
          empty={list.isSuccess && <Empty title="Nothing was delivered yet">Drop an archive above, or on a part.</Empty>}
        />
      </div>
    </>
  );
}

export function DeliveryPage() {
  const { id = '' } = useParams();
  const found = useQuery({
    queryKey: ['delivery', id],
    queryFn: () => take(api.GET('/api/v1/deliveries/{key}', { params: { path: { key: id } } })),
  });
  const d = found.data;
  if (found.error && !found.data) return <div className="p-4"><Trouble error={found.error} /></div>; // prettier-ignore
  if (!d) return <Empty title="One moment…" />;
  return (
    <>
      <Stale of={found} />
      <PageHead title={d.name} sub={`${d.number}${d.part ? ` for ${d.part}` : ''}: ${d.files.length} files, ${d.count} models`}>
        <LibraryButton d={d} />
      </PageHead>
      <ModelTabs at="/deliveries" />
      <div className="min-h-0 flex-1 overflow-auto p-4">
        <Use d={d} />
      </div>
    </>
  );
}

/** What the person wants of each model: the library's one, a new one under a name, or nothing. */
interface Wish {
  take: 'new' | 'skip' | string; // or the ID of a model of the library
  name: string;
  way: number;
}

function wishFor(m: Delivered): Wish {
  const same = m.same[0];
  const exact = same && same.revision > 0 && (same.how === 'is the same' || same.how === 'is the same file');
  return { take: m.used || m.twin ? 'skip' : exact ? same.id : 'new', name: m.house ?? m.name, way: certain(m) ? 1 : 0 };
}

/** Choosing what becomes of each model of a delivery. */
export function Use({ d, onUsed }: { d: Delivery; onUsed?: () => void }) {
  const say = useSay();
  const may = useMay();
  const [part, setPart] = useState(d.part ?? '');
  const [note, setNote] = useState(`delivered as ${d.name}`);
  const [wishes, setWishes] = useState<Record<string, Wish>>(() =>
    Object.fromEntries(d.models.slice(0, 60).map((m) => [m.key, wishFor(m)])),
  );
  const files = d.files.filter((f) => f.is !== 'models' && f.is !== 'refused' && f.is !== 'unknown');
  const [attach, setAttach] = useState<string[]>(files.map((f) => f.path));
  const shown = d.models.slice(0, 60);
  const use = useDeed(
    () =>
      take(
        api.POST('/api/v1/deliveries/{key}/use', {
          params: { path: { key: d.id }, header: based(d.version) },
          body: {
            part: part || undefined,
            note: note || undefined,
            files: part ? attach : undefined,
            models: shown.flatMap((m): Schemas['UsedModel'][] => {
              const w = wishes[m.key];
              if (!w || w.take === 'skip') return [];
              if (w.take !== 'new') return [{ key: m.key, reuse: w.take }];
              return [{ key: m.key, name: w.name, correct: m.fit.placings[w.way - 1]?.place }];
            }),
          },
        }),
      ),
    () => {
      say(part ? `${part}: the models are linked in its draft.` : 'The models are in the library.');
      onUsed?.();
    },
  );
  const set = (key: string, w: Partial<Wish>) => setWishes({ ...wishes, [key]: { ...(wishes[key] as Wish), ...w } });
  return (
    <form
      className="space-y-3"
      onSubmit={(e) => {
        e.preventDefault();
        use.mutate(undefined);
      }}
    >
      <ul className="grid gap-3 xl:grid-cols-3 md:grid-cols-2">
        {shown.map((m) => (
          <li key={m.key}>
            <ModelWish d={d} m={m} wish={wishes[m.key] as Wish} onChange={(w) => set(m.key, w)} />
          </li>
        ))}
      </ul>
      {d.count > shown.length && (
        <p className="text-sm">
          and {d.count - shown.length} more models: a library of many becomes an intake, or is used on the command line.
        </p>
      )}
      <Files d={d} attach={attach} setAttach={part ? setAttach : undefined} />
      {may('model.edit') && shown.length > 0 && (
        <div className="flex flex-wrap items-end gap-3">
          <Field
            label="For the part"
            placeholder="part number; blank: library only"
            value={part}
            onChange={(e) => setPart(e.target.value)}
          />
          {may('model.release') && (
            <Field
              label="Release note of new models"
              placeholder="blank leaves drafts"
              value={note}
              onChange={(e) => setNote(e.target.value)}
            />
          )}
          <Button look="act" type="submit" disabled={use.isPending}>
            {part ? 'Take and link to the part' : 'Take into the library'}
          </Button>
        </div>
      )}
      <Trouble error={use.error} />
    </form>
  );
}

function ModelWish({ d, m, wish, onChange }: { d: Delivery; m: Delivered; wish: Wish; onChange: (w: Partial<Wish>) => void }) {
  const chosen = m.same.find((s) => s.id === wish.take);
  return (
    <Panel title={`${m.kind}: ${m.name}`}>
      <div className="h-40">
        <Drawing
          src={chosen ? preview(chosen.id) : `/api/v1/deliveries/${d.id}/models/${m.key}/preview`}
          alt={`Drawing of ${chosen?.name ?? m.name}`}
        />
      </div>
      <p className="mt-1 text-xs text-soft">
        {m.what} · {m.path}
      </p>
      {m.used && (
        <p className="text-sm">
          ✓ In the library as{' '}
          <Link className="underline" to={`/models/${m.used.id}`}>
            {m.used.name}
          </Link>
        </p>
      )}
      {m.same.length > 0 && (
        <p className="text-sm">
          <Chip tone="good">the library has it</Chip> {m.same[0]?.name} {m.same[0]?.how}, used by {parts(m.same[0]?.uses ?? 0)}
        </p>
      )}
      {m.twin && (
        <p className="text-sm">
          <Chip tone="good">twin</Chip> The same as {d.models.find((o) => o.key === m.twin)?.name} of this delivery: it is taken once.
        </p>
      )}
      {m.asked && (
        <p className="text-sm">
          <Chip tone="open">which one?</Chip> {m.asked}
        </p>
      )}
      {m.named && (
        <p className="text-sm">
          <Chip tone="open">name taken</Chip> The library has another drawing of this name.
        </p>
      )}
      {m.fit.findings.map((f) => (
        <p key={f.cause} className="text-sm">
          <Chip tone="bad">{f.cause.replace('body-', '')}</Chip> {f.what}
        </p>
      ))}
      {m.findings.length > 0 && <p className="text-xs text-soft">Checks: {m.findings.map((f) => f.what).join('; ')}</p>}
      <div className="mt-2 space-y-2">
        <Select
          label={`What becomes of the ${m.kind} ${m.name}`}
          hideLabel
          value={wish.take}
          onChange={(e) => onChange({ take: e.target.value })}
        >
          {m.same
            .filter((s) => s.revision > 0)
            .map((s) => (
              <option key={s.id} value={s.id}>
                reuse {s.name} (revision {s.revision})
              </option>
            ))}
          <option value="new">take as a new {m.kind}</option>
          <option value="skip">do not take</option>
        </Select>
        {wish.take === 'new' && (
          <Field
            label="Name in the library"
            required
            maxLength={100}
            value={wish.name}
            onChange={(e) => onChange({ name: e.target.value })}
          />
        )}
        {wish.take === 'new' && m.fit.placings.length > 0 && !certain(m) && (
          <Select label="How the body sits" value={String(wish.way)} onChange={(e) => onChange({ way: Number(e.target.value) })}>
            <option value="0">as it came</option>
            {m.fit.placings.map((p, i) => (
              <option key={p.what} value={i + 1}>
                {p.what}
              </option>
            ))}
          </Select>
        )}
        {wish.take === 'new' && certain(m) && (
          <label className="flex gap-2 text-sm">
            <input type="checkbox" checked={wish.way === 1} onChange={(e) => onChange({ way: e.target.checked ? 1 : 0 })} />
            Correct it: {m.fit.findings.map((f) => f.mend).join(', ')}
          </label>
        )}
      </div>
    </Panel>
  );
}

function Files({ d, attach, setAttach }: { d: Delivery; attach: string[]; setAttach?: (paths: string[]) => void }) {
  return (
    <Panel title="Files">
      <ul className="space-y-1 text-sm">
        {d.files.map((f) => (
          <li key={f.path}>
            {setAttach && f.is !== 'models' && f.is !== 'refused' && (
              <input
                type="checkbox"
                aria-label={`Attach ${f.path}`}
                className="mr-2 align-middle"
                checked={attach.includes(f.path)}
                onChange={(e) => setAttach(e.target.checked ? [...attach, f.path] : attach.filter((p) => p !== f.path))}
              />
            )}
            {f.is === 'refused' && <Chip tone="bad">not read</Chip>}{' '}
            <a
              className="font-semibold underline"
              download
              href={`/api/v1/files/${f.hash}?name=${encodeURIComponent(f.path.split('/').pop() ?? '')}`}
            >
              {f.path}
            </a>{' '}
            {f.what}
            <Sentences all={f.wrong} mark="▲" tone="text-amber" more="not read" />
            <Sentences all={f.said} mark="◆" tone="text-soft" more="said of it" />
          </li>
        ))}
      </ul>
    </Panel>
  );
}

/** Sentences about a file: the first ones, and the others when they are asked for. */
function Sentences({ all, mark, tone, more }: { all: string[]; mark: string; tone: string; more: string }) {
  const most = 5;
  const line = (text: string) => (
    <span key={text} className={`block pl-4 ${tone}`}>
      <span aria-hidden>{mark} </span>
      {text}
    </span>
  );
  return (
    <>
      {all.slice(0, most).map(line)}
      {all.length > most && (
        <details className={`pl-4 ${tone}`}>
          <summary className="cursor-pointer">
            {all.length - most} more {more}
          </summary>
          {all.slice(most).map(line)}
        </details>
      )}
    </>
  );
}

/** The one way that puts a body right beyond doubt. */
function certain(m: Schemas['DeliveredModel']) {
  const ways = m.fit.placings;
  return ways.length === 1 && ways[0]?.certain ? ways[0] : undefined;
}

/** A library of many becomes an intake: each drawing once, a row for each symbol. */
function LibraryButton({ d }: { d: Delivery }) {
  const may = useMay();
  const navigate = useNavigate();
  const [open, setOpen] = useState(false);
  const [supplier, setSupplier] = useState(d.name.replace(/\.[a-z0-9]+$/i, ''));
  const [note, setNote] = useState('from an old library');
  const make = useDeed(
    () =>
      take(
        api.POST('/api/v1/deliveries/{key}/intake', {
          params: { path: { key: d.id }, header: based(d.version) },
          body: { supplier, note },
        }),
      ),
    (i) => void navigate(`/intakes/${i.id}`),
  );
  if (!may('model.release') || !d.models.some((m) => m.kind === 'symbol')) return null;
  return (
    <>
      <Button look={d.count > 20 ? 'act' : 'plain'} onClick={() => setOpen(true)}>
        Make an intake…
      </Button>
      {open && (
        <Dialog open title="Make an intake of this library" onClose={() => setOpen(false)}>
          <form
            className="space-y-3"
            onSubmit={(e) => {
              e.preventDefault();
              make.mutate(undefined);
            }}
          >
            <p className="text-sm">
              Each symbol becomes a row with what was written on it. Symbols and land patterns that are the same are kept once, and those
              that the library has are reused.
            </p>
            <Field label="Whose library" required maxLength={80} value={supplier} onChange={(e) => setSupplier(e.target.value)} />
            <Field label="Release note of the drawings" required maxLength={2000} value={note} onChange={(e) => setNote(e.target.value)} />
            <Trouble error={make.error} />
            <Button look="act" type="submit" disabled={make.isPending}>
              Make the intake
            </Button>
          </form>
        </Dialog>
      )}
    </>
  );
}
