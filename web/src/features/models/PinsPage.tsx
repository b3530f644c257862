import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { api, based, take, type Schemas } from '../../api/client';
import { Drawing } from '../../ui/drawing';
import { Stale } from '../../ui/asked';
import { Button, Chip, Empty, Field, PageHead, Panel, State, Trouble } from '../../ui/kit';
import { previewOf } from '../../ui/previews';
import { SheetChoice, SheetPage, useSheet } from '../../ui/sheet';
import { useSay } from '../../ui/toast';
import { Offer, useTyped } from '../../ui/unsaved';
import { useMay } from '../people';
import { SignDialog } from './ModelDialogs';
import { Solid } from './Solid';
import { useDeed } from './queries';

type Pins = Schemas['PinsOnPads'];

/** What lies between a part's models: which pin goes to which pad, and how the body sits. */
export function PinsPage() {
  const { key = '' } = useParams();
  const pins = useQuery({
    queryKey: ['pins', key],
    queryFn: () => take(api.GET('/api/v1/parts/{key}/pins', { params: { path: { key } } })),
  });
  const part = useQuery({ queryKey: ['part', key], queryFn: () => take(api.GET('/api/v1/parts/{key}', { params: { path: { key } } })) });
  if (pins.error && !pins.data) return <div className="p-4"><Trouble error={pins.error} /></div>; // prettier-ignore
  const p = pins.data;
  if (!p || !part.data) return <Empty title="One moment…" />;
  const content = part.data.draft ?? part.data.released;
  return (
    <>
      <Stale of={pins} />
      <PageHead
        title={`Pins on pads of ${p.part}`}
        sub={p.map ? `by the pin map ${p.map.name}` : 'pins go to the pads of their own number'}
      >
        <Link
          className="inline-flex min-h-7 items-center rounded border border-line bg-sheet px-2.5 text-sm font-medium hover:bg-tint"
          to={`/parts/${encodeURIComponent(p.part)}`}
        >
          Back to the part
        </Link>
      </PageHead>
      <div className="min-h-0 flex-1 space-y-3 overflow-auto p-4">
        <div className="grid items-start gap-3 lg:grid-cols-2">
          {p.symbol && (
            <Panel title={p.symbol.name}>
              <div className="h-72">
                <Drawing src={previewOf(p.symbol)} alt={`Symbol ${p.symbol.name}`} />
              </div>
            </Panel>
          )}
          {p.landPattern && <Board p={p} body={content?.body} />}
        </div>
        {p.rows.length > 0 ? (
          <Beside p={p} sheets={content?.datasheets ?? []} />
        ) : (
          <Empty title="No pins">Link a symbol with a drawing to the part first.</Empty>
        )}
      </div>
    </>
  );
}

function Board({ p, body }: { p: Pins; body?: Schemas['PartContent']['body'] }) {
  const say = useSay();
  const may = useMay();
  const [note, setNote] = useState('body corrected');
  const [here, setHere] = useState(false);
  const ways = p.fit.placings;
  const land = useQuery({
    queryKey: ['model', p.landPattern?.id],
    queryFn: () => take(api.GET('/api/v1/models/{id}', { params: { path: { id: p.landPattern?.id ?? '' } } })),
    enabled: !!p.landPattern,
  });
  const solid = useQuery({
    queryKey: ['model', body?.id],
    queryFn: () => take(api.GET('/api/v1/models/{id}', { params: { path: { id: body?.id ?? '' } } })),
    enabled: !!body,
  });
  const place = useDeed(
    (way: Schemas['ModelPlacing']) =>
      take(
        api.POST('/api/v1/parts/{key}/body', {
          params: { path: { key: p.part }, header: based(p.version) },
          body: { place: way.place, onlyHere: here, note: note || undefined },
        }),
      ),
    () => say('The body sits as chosen.'),
  );
  const board = `/api/v1/parts/${encodeURIComponent(p.part)}/board?v=${p.version}`;
  const model = solid.data?.draft ?? solid.data?.released;
  return (
    <Panel title={`${p.landPattern?.name}${body ? ` with ${body.name}` : ''}`}>
      <div className={ways.length > 0 ? 'grid grid-cols-2 gap-2' : ''}>
        <figure>
          <div className="h-64">
            <Drawing src={board} alt={`The body as it sits on ${p.landPattern?.name}`} />
          </div>
          {ways.length > 0 && <figcaption className="text-center text-xs text-soft">as it is</figcaption>}
        </figure>
        {ways.map((w, i) => (
          <figure key={w.what}>
            <div className="h-64">
              <Drawing src={`${board}&placing=${i + 1}`} alt={`The body as it would sit: ${w.what}`} />
            </div>
            <figcaption className="space-y-1 text-center text-xs text-soft">
              <span className="block">{w.certain ? 'as it belongs' : w.what}</span>
              {may('model.edit') && (
                <Button look="act" type="button" disabled={place.isPending} onClick={() => place.mutate(w)}>
                  {w.certain ? `Correct: ${p.fit.findings.map((f) => f.mend).join(', ')}` : `It is so: ${w.what}`}
                </Button>
              )}
            </figcaption>
          </figure>
        ))}
      </div>
      {p.fit.findings.map((f) => (
        <p key={f.cause} className="mt-1 flex items-start gap-2 text-sm">
          <State of={f.severity} /> <span>{f.what}</span>
        </p>
      ))}
      {ways.length > 1 && <p className="mt-1 text-sm">◆ Boxes allow several readings: whoever knows the part says which is meant.</p>}
      {ways.length > 0 && may('model.edit') && (
        <div className="mt-2 flex flex-wrap items-end gap-3">
          {may('model.release') && (
            <Field
              label="Release note of the correction"
              placeholder="blank leaves a draft"
              value={note}
              onChange={(e) => setNote(e.target.value)}
            />
          )}
          <label className="flex gap-2 pb-1 text-sm">
            <input type="checkbox" checked={here} onChange={(e) => setHere(e.target.checked)} />
            on this land pattern only
          </label>
        </div>
      )}
      {body && p.fit.findings.length === 0 && (
        <p className="mt-1 text-sm">✓ The body sits on its pads, as far as its box and its feet tell.</p>
      )}
      <Trouble error={place.error} />
      {model?.fileHash && land.data && (
        <Solid
          hash={model.fileHash}
          name={model.name}
          land={(land.data.draft ?? land.data.released)?.landPattern}
          place={model.body?.place}
        />
      )}
    </Panel>
  );
}

/** The pins beside the datasheet's page, for going through them one by one and signing that one did. */
function Beside({ p, sheets }: { p: Pins; sheets: Schemas['PartContent']['datasheets'] }) {
  const may = useMay();
  const [signing, setSigning] = useState(false);
  const sheet = useSheet(sheets, false);
  const symbol = useQuery({
    queryKey: ['model', p.symbol?.id],
    queryFn: () => take(api.GET('/api/v1/models/{id}', { params: { path: { id: p.symbol?.id ?? '' } } })),
    enabled: !!p.symbol,
  });
  return (
    <>
      <div className="flex flex-wrap items-end gap-3">
        <SheetChoice of={sheet} label="Datasheet beside the pins" none />
        {may('model.edit') && symbol.data && symbol.data.revision > 0 && (
          <Button onClick={() => setSigning(true)}>Sign the check of the symbol…</Button>
        )}
        {symbol.data?.signed.map((s) => (
          <p key={s.by + s.revision} className="text-sm">
            ✓ Revision {s.revision} checked by {s.by} on {new Date(s.at).toLocaleDateString()} against {s.against}
          </p>
        ))}
      </div>
      <div className={sheet.sheet ? 'grid gap-3 lg:grid-cols-2' : ''}>
        <MapPanel p={p} />
        <SheetPage of={sheet} />
      </div>
      {signing && symbol.data && <SignDialog model={symbol.data} against={sheet.against} onClose={() => setSigning(false)} />}
    </>
  );
}

interface PinEdit {
  pads: Record<string, string>;
  noPad: string[];
  free: string[];
}

const asPinEdit = (p: Pins): PinEdit => ({
  pads: Object.fromEntries(p.rows.map((r) => [r.pin, r.pads.join(', ')])),
  noPad: p.rows.filter((r) => r.noPad).map((r) => r.pin),
  free: p.free,
});

function MapPanel({ p: now }: { p: Pins }) {
  const say = useSay();
  const may = useMay();
  // What was begun with: a colleague's save does not take its place while something is typed.
  const [p, setBase] = useState(now);
  const [edit, setEdit] = useState(asPinEdit(now));
  const { pads, noPad, free } = edit;
  const changed = JSON.stringify(edit) !== JSON.stringify(asPinEdit(p));
  const newer = now.version !== p.version;
  if (newer && !changed) {
    setBase(now);
    setEdit(asPinEdit(now));
  }
  const { kept, typed, settled, leaving } = useTyped<PinEdit>(`pins ${p.part}`, p.version);
  const put = (change: Partial<PinEdit>) => {
    const next = { ...edit, ...change };
    setEdit(next);
    typed(JSON.stringify(next) === JSON.stringify(asPinEdit(p)) ? undefined : next);
  };
  const [note, setNote] = useState('pin map from the datasheet');
  const split = (text: string) => text.split(/[\s,;]+/).filter(Boolean);
  const taken = new Set(Object.values(pads).flatMap(split));
  const bare = [...p.bare, ...p.free, ...p.rows.flatMap((r) => r.pads)].filter((d, i, all) => !taken.has(d) && all.indexOf(d) === i);
  const save = useDeed(
    (same: boolean) =>
      take(
        api.POST('/api/v1/parts/{key}/pins', {
          params: { path: { key: p.part }, header: based(p.version) },
          body: {
            same,
            note: note || undefined,
            map: {
              pairs: same
                ? []
                : p.rows.flatMap((r) => (split(pads[r.pin] ?? '').length ? [{ pin: r.pin, pads: split(pads[r.pin] ?? '') }] : [])),
              free: same ? [] : free.filter((f) => bare.includes(f)),
              noPad: same ? [] : noPad.filter((n) => !split(pads[n] ?? '').length),
            },
          },
        }),
      ),
    (saved) => {
      say('The pin map is in the part’s draft.');
      settled();
      setBase(saved);
      setEdit(asPinEdit(saved));
    },
  );
  return (
    <Panel title="Which pin goes to which pad">
      {leaving}
      {!changed && (
        <Offer kept={kept} version={p.version} what={`the pin map of ${p.part}`} onDrop={settled} onTake={(k) => put(k.value)} />
      )}
      {newer && changed && (
        <div role="status" className="mb-2 flex flex-wrap items-center gap-2 rounded border border-amber bg-amber-tint px-3 py-1.5 text-sm">
          <span className="min-w-0 flex-1">
            <span aria-hidden="true">◐ </span>Somebody else changed {p.part} meanwhile. What you typed is still here.
          </span>
          <Button onClick={() => setBase({ ...now, rows: now.rows })}>Mine goes over theirs</Button>
          <Button
            look="danger"
            onClick={() => {
              settled();
              setBase(now);
              setEdit(asPinEdit(now));
            }}
          >
            Take theirs
          </Button>
        </div>
      )}
      {p.findings.map((f) => (
        <p key={f.cause + f.what} className="mb-1 flex items-start gap-2 text-sm">
          <State of={f.severity} />
          <span>
            {f.what}
            {f.mend && <span className="text-soft">: {f.mend}</span>}
          </span>
        </p>
      ))}
      {p.findings.length === 0 && p.landPattern && <p className="mb-1 text-sm">✓ Every pin is on a pad, and every pad on a pin or free.</p>}
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate(false);
        }}
      >
        <div className="max-h-[28rem] overflow-auto">
          <table className="w-full text-sm">
            <thead className="sticky top-0 z-10 bg-sheet text-left text-xs text-soft">
              <tr>
                <th className="py-1 pr-3">Pin</th>
                <th className="pr-3">Name</th>
                <th className="pr-3">Type</th>
                <th className="pr-3">Pads</th>
                <th className="pr-3">No pad</th>
                <th>Attached list</th>
              </tr>
            </thead>
            <tbody>
              {p.rows.map((r) => (
                <tr key={r.pin} className={`border-t border-line/60 ${r.what || (!r.pads.length && !r.noPad) ? 'bg-amber-tint' : ''}`}>
                  <th scope="row" className="py-0.5 pr-3 text-left">
                    {r.pin}
                  </th>
                  <td className="pr-3">{r.name}</td>
                  <td className="pr-3">{r.type}</td>
                  <td className="pr-3">
                    <input
                      aria-label={`Pads of pin ${r.pin}`}
                      className="w-28 rounded border border-line bg-sheet px-1.5 py-0.5"
                      disabled={!may('part.edit')}
                      value={pads[r.pin] ?? ''}
                      onChange={(e) => put({ pads: { ...pads, [r.pin]: e.target.value } })}
                    />
                  </td>
                  <td className="pr-3">
                    <input
                      type="checkbox"
                      aria-label={`Pin ${r.pin} has no pad on purpose`}
                      checked={noPad.includes(r.pin)}
                      onChange={(e) => put({ noPad: e.target.checked ? [...noPad, r.pin] : noPad.filter((n) => n !== r.pin) })}
                    />
                  </td>
                  <td>
                    {r.listed} {r.what && <Chip tone="open">{r.what}</Chip>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        {bare.length > 0 && (
          <fieldset className="mt-2 text-sm">
            <legend className="text-xs font-semibold text-soft">Pads without a pin: free on purpose?</legend>
            {bare.map((b) => (
              <label key={b} className="mr-4 inline-flex gap-1.5">
                <input
                  type="checkbox"
                  checked={free.includes(b)}
                  onChange={(e) => put({ free: e.target.checked ? [...free, b] : free.filter((f) => f !== b) })}
                />{' '}
                {b}
              </label>
            ))}
          </fieldset>
        )}
        {may('part.edit') && p.landPattern && (
          <div className="mt-3 flex flex-wrap items-end gap-3">
            {may('model.release') && (
              <Field
                label="Release note of the map"
                placeholder="blank leaves a draft"
                value={note}
                onChange={(e) => setNote(e.target.value)}
              />
            )}
            <Button look="act" type="submit" disabled={save.isPending}>
              Save the pin map
            </Button>
            {p.map && <Button onClick={() => save.mutate(true)}>Back to equal numbers</Button>}
          </div>
        )}
        <Trouble error={save.error} />
      </form>
    </Panel>
  );
}
