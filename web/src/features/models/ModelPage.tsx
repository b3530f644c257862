import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api, based, take, type Schemas } from '../../api/client';
import { Drawing } from '../../ui/drawing';
import { Stale } from '../../ui/asked';
import { Button, Chip, Dialog, Empty, Field, LifeState, Menu, PageHead, Panel, State, Trouble } from '../../ui/kit';
import { ScrollList } from '../../ui/scroll';
import { preview } from '../../ui/previews';
import { Looked } from '../../ui/looked';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { Talk } from '../comments';
import { LifePanel, MoveButtons, Trail } from '../lifecycles';
import { WatchButton } from '../notices';
import { CompareDialog, EditDialog, SignDialog } from './ModelDialogs';
import { RevisionsDialog } from './RevisionsDialog';
import { Solid } from './Solid';
import { useDeed, type Model, parts } from './queries';

const forms: Record<string, string[]> = {
  symbol: ['own', 'edif'],
  'land pattern': ['own', 'ipc2581', 'pad-table'],
  body: ['own', 'step'],
  'pin map': ['own'],
};
const named: Record<string, string> = {
  own: 'our own form',
  edif: 'EDIF',
  ipc2581: 'IPC-2581',
  'pad-table': 'table of pads',
  step: 'STEP',
};

export function ModelPage() {
  const { id = '' } = useParams();
  const model = useQuery({ queryKey: ['model', id], queryFn: () => take(api.GET('/api/v1/models/{id}', { params: { path: { id } } })) });
  const may = useMay();
  const navigate = useNavigate();
  const [open, setOpen] = useState<'edit' | 'sign' | 'compare' | 'revisions'>();
  if (model.error && !model.data) return <div className="p-4"><Trouble error={model.error} /></div>; // prettier-ignore
  const m = model.data;
  if (!m) return <Empty title="One moment…" />;
  const content = m.draft ?? m.released;
  const draft = m.draft && (m.states.draft ?? m.states.status);
  const still = draft && !draft.change ? draft : undefined; // a state in which content does not change
  return (
    <>
      <Stale of={model} />
      <Looked kind="model" id={m.id} number={m.name} what={m.kind} />
      <PageHead
        title={m.name}
        sub={
          <span className="flex flex-wrap gap-2">
            {m.kind} · {m.what} <LifeState of={m.states.status} more={m.revision ? `revision ${m.states.label}` : ''} />{' '}
            {m.states.draft && <Chip tone="open">beside it: {m.states.draft.word}</Chip>}
            {m.mergedTo && <Chip tone="open">merged into {m.mergedTo}</Chip>}
            {m.askedAs && <Chip tone="open">{m.askedAs} was merged into it</Chip>}
          </span>
        }
      >
        {m.mergedTo && may('model.release') && <TakeBack model={m} />}
        {may('model.edit') && (
          <Button
            onClick={() => setOpen('edit')}
            disabled={still !== undefined}
            title={still && `In the state “${still.word}” its content does not change: send it back first`}
          >
            New draft…
          </Button>
        )}
        {may('model.edit') && (content?.symbol ?? content?.landPattern) && (
          <Menu
            label="Draw ▾"
            items={[
              ...(still ? [] : [{ text: 'Change the drawing', onSelect: () => void navigate(`/models/${m.id}/draw`) }]),
              { text: 'Draw a copy', onSelect: () => void navigate(`/models/draw?copy=${m.id}`) },
            ]}
          />
        )}
        {may('thing.review') && m.kind !== 'pin map' && <Button onClick={() => setOpen('sign')}>Sign the check…</Button>}
        <WatchButton of="model" about={m.id} name={m.name} />
        {may('thing.move') && <MoveButtons id={m.id} name={m.name} />}
      </PageHead>
      <div className="grid min-h-0 flex-1 content-start gap-3 overflow-auto p-4 lg:grid-cols-[3fr_2fr]">
        <div className="space-y-3">
          {m.drawn && (
            <Panel title="Drawing">
              <div className={(content?.symbol?.pins.length ?? 0) > 30 ? 'h-[46rem]' : 'h-[26rem]'}>
                <Drawing src={preview(m.id, m.content)} alt={`${m.name}: ${m.what}`} />
              </div>
              {m.kind === 'body' && content?.fileHash && <Solid hash={content.fileHash} name={m.name} />}
            </Panel>
          )}
          {content?.symbol && <Pins id={m.id} symbol={content.symbol} onCompare={() => setOpen('compare')} />}
          {content?.landPattern && <Pads land={content.landPattern} />}
        </div>
        <div className="space-y-3">
          <LifePanel id={m.id} name={m.name} />
          <Checks model={m} />
          <Twins model={m} />
          <Panel title="Files">
            <p className="flex flex-wrap gap-3 text-sm">
              {(forms[m.kind] ?? []).map((form) => (
                <a key={form} className="underline" download href={`/api/v1/models/${m.id}/file?form=${form}`}>
                  {named[form] ?? form}
                </a>
              ))}
              {content?.fileHash && (
                <a className="underline" download={content.fileName} href={`/api/v1/models/${m.id}/file?form=original`}>
                  as it came: {content.fileName}
                </a>
              )}
            </p>
            {content?.note && <p className="mt-2 text-sm">{content.note}</p>}
          </Panel>
          <Panel
            title="Revisions"
            actions={m.revisions.length + (m.draft ? 1 : 0) > 1 && <Button onClick={() => setOpen('revisions')}>Compare…</Button>}
          >
            {m.revisions.length === 0 && <p className="text-sm text-soft">Not released yet.</p>}
            <ol className="text-sm">
              {m.revisions.map((r) => (
                <li key={r.number}>
                  <strong>{r.label}</strong> {r.state.meaning !== 'in use' && <LifeState of={r.state} />} {r.note}{' '}
                  <span className="text-xs text-soft">
                    · {r.by}, {new Date(r.at).toLocaleString()}
                  </span>
                </li>
              ))}
            </ol>
            {m.signed.map((s) => (
              <p key={s.by + s.revision} className="mt-1 text-sm">
                ✓ {s.revision > 0 ? `Revision ${s.revision}` : 'The draft'} signed by {s.by}
                {s.author && ' (an author)'} on {new Date(s.at).toLocaleDateString()} against {s.against}
              </p>
            ))}
          </Panel>
          <Uses model={m} />
          <Talk id={m.id} />
          <Trail id={m.id} />
        </div>
      </div>
      {open === 'edit' && <EditDialog model={m} onClose={() => setOpen(undefined)} />}
      {open === 'sign' && <SignDialog model={m} onClose={() => setOpen(undefined)} />}
      {open === 'revisions' && <RevisionsDialog model={m} onClose={() => setOpen(undefined)} />}
      {open === 'compare' && <CompareDialog model={m} onClose={() => setOpen(undefined)} />}
    </>
  );
}

function Checks({ model }: { model: Model }) {
  const say = useSay();
  const may = useMay();
  const [accepting, setAccepting] = useState('');
  const [why, setWhy] = useState('');
  const mend = useDeed(
    (cause: string) =>
      take(api.POST('/api/v1/model-mends', { body: { cause, models: [model.id], versions: { [model.id]: model.version } } })),
    () => say(`${model.name}: mended in a new draft. It is not released yet.`),
  );
  const accept = useDeed(
    (cause: string) =>
      take(
        api.POST('/api/v1/models/{id}/waiver', { params: { path: { id: model.id }, header: based(model.version) }, body: { cause, why } }),
      ),
    () => setAccepting(''),
  );
  return (
    <Panel title="Checks">
      {model.checks.length === 0 && <p className="text-sm">✓ Nothing to say.</p>}
      <Trouble error={mend.error ?? accept.error} />
      <ul className="space-y-1.5 text-sm">
        {model.checks.map((f) => (
          <li key={f.cause + f.what} className="flex flex-wrap items-start gap-2">
            <State of={f.severity} />
            <span className="min-w-40 flex-1">
              {f.what}
              {f.waived && <span className="text-soft"> (accepted: {f.waived})</span>}
            </span>
            {!f.waived && may('model.edit') && (
              <span className="flex gap-1">
                {f.click && (
                  <Button disabled={mend.isPending} onClick={() => mend.mutate(f.cause)}>
                    {f.click}
                  </Button>
                )}
                <Button look="quiet" onClick={() => setAccepting(f.cause)}>
                  Accept…
                </Button>
              </span>
            )}
          </li>
        ))}
      </ul>
      {accepting && (
        <form
          className="mt-2 flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            accept.mutate(accepting);
          }}
        >
          <Field
            label={`Why ${accepting} is right as it is`}
            required
            maxLength={500}
            value={why}
            onChange={(e) => setWhy(e.target.value)}
          />
          <Button type="submit">Accept</Button>
        </form>
      )}
    </Panel>
  );
}

function Twins({ model }: { model: Model }) {
  if (model.twins.length === 0) return null;
  return (
    <Panel title={`Like ${model.twins.length === 1 ? 'one other' : `${model.twins.length} others`}`}>
      <ul className="space-y-1 text-sm">
        {model.twins.map((t) => (
          <li key={t.id}>
            <Link className="underline" to={`/models/${t.id}`}>
              {t.name}
            </Link>{' '}
            {t.how}, used by {parts(t.uses)}
          </li>
        ))}
      </ul>
      <Link className="text-sm underline" to="/models/twins">
        Merge twins
      </Link>
    </Panel>
  );
}

/** A merging is taken back: the model is one of its own again, and the parts that took the survivor with it get it back. */
function TakeBack({ model }: { model: Model }) {
  const say = useSay();
  const [open, setOpen] = useState(false);
  const [why, setWhy] = useState('');
  const back = useDeed(
    () => take(api.POST('/api/v1/model-merges/taken-back', { body: { model: model.id, why } })),
    (r) => {
      say(
        `${model.name} is one of its own again. Parts that got it back: ${r.parts.length}.${r.left.length > 0 ? ` Left: ${r.left.join('; ')}.` : ''}`,
      );
      setOpen(false);
    },
  );
  return (
    <>
      <Button onClick={() => setOpen(true)}>Take the merging back…</Button>
      <Dialog open={open} title={`Take back that ${model.name} was merged`} onClose={() => setOpen(false)}>
        <form
          className="space-y-3"
          onSubmit={(e) => {
            e.preventDefault();
            back.mutate(undefined);
          }}
        >
          <p className="text-sm">
            The parts that took {model.mergedTo} with that merging, and still hold it, get {model.name} back as a new draft.
          </p>
          <Field label="Why" required maxLength={500} value={why} onChange={(e) => setWhy(e.target.value)} />
          <Trouble error={back.error} />
          <Button look="act" type="submit" disabled={back.isPending}>
            Take it back
          </Button>
        </form>
      </Dialog>
    </>
  );
}

function Uses({ model }: { model: Model }) {
  const say = useSay();
  const may = useMay();
  const behind = model.usedBy.filter((u) => u.newer || model.mergedTo).length;
  const takeNewer = useDeed(
    (parts: string[]) =>
      take(
        api.POST('/api/v1/models/{id}/take-newer', {
          params: { path: { id: model.id } },
          body: {
            parts,
            revision: model.mergedTo ? undefined : model.revision || undefined,
            versions: Object.fromEntries(model.usedBy.map((u) => [u.part, u.version])),
          },
        }),
      ),
    (r) => say(`New drafts with the newest revision: ${parts(r.parts.length)}.`),
  );
  return (
    <Panel
      title={`Used by ${model.uses}`}
      actions={
        behind > 0 &&
        may('part.edit') && (
          <Button disabled={takeNewer.isPending} onClick={() => takeNewer.mutate([])}>
            All take the newest
          </Button>
        )
      }
    >
      <Trouble error={takeNewer.error} />
      {model.usedBy.length === 0 && <p className="text-sm text-soft">No part uses it.</p>}
      <ScrollList className="max-h-72 columns-2 text-sm">
        {model.usedBy.map((u) => (
          <li key={u.part + u.place}>
            <Link className="underline" to={`/parts/${encodeURIComponent(u.part)}`}>
              {u.part}
            </Link>{' '}
            <span className="text-xs text-soft">
              {u.place.split(' ')[0]}, revision {u.revision}
            </span>{' '}
            {u.newer && may('part.edit') && (
              <Button look="quiet" onClick={() => takeNewer.mutate([u.part])}>
                behind: take the newest
              </Button>
            )}
          </li>
        ))}
      </ScrollList>
    </Panel>
  );
}

function Pins({ id, symbol, onCompare }: { id: string; symbol: Schemas['ModelSymbol']; onCompare: () => void }) {
  return (
    <Panel
      title={`${symbol.pins.length} pins`}
      actions={
        <span className="flex items-center gap-3">
          <Link className="text-sm underline" to={`/models/make-symbol?model=${id}`}>
            Lay out anew
          </Link>
          <Button onClick={onCompare}>Beside a list…</Button>
        </span>
      }
    >
      <div className="max-h-80 overflow-auto">
        <table className="w-full text-sm">
          <thead className="sticky top-0 bg-sheet text-left text-xs text-soft">
            <tr>
              <th className="py-1 pr-3">Pin</th>
              <th className="pr-3">Name</th>
              <th className="pr-3">Type</th>
              <th>Unit</th>
            </tr>
          </thead>
          <tbody>
            {symbol.pins.map((p) => (
              <tr key={p.number + p.name} className="border-t border-line/60">
                <td className="py-0.5 pr-3 font-semibold">{p.number}</td>
                <td className="pr-3">{p.name}</td>
                <td className="pr-3">{p.type}</td>
                <td>{p.unit ? symbol.units?.[p.unit - 1] : ''}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Panel>
  );
}

function Pads({ land }: { land: Schemas['ModelLandPattern'] }) {
  return (
    <Panel title={`${land.pads.length} pads`}>
      <div className="max-h-80 overflow-auto">
        <table className="w-full text-sm">
          <thead className="sticky top-0 bg-sheet text-left text-xs text-soft">
            <tr>
              <th className="py-1 pr-3">Pad</th>
              <th className="pr-3">Shape</th>
              <th className="pr-3 text-right">x, mm</th>
              <th className="pr-3 text-right">y, mm</th>
              <th className="pr-3 text-right">Size, mm</th>
              <th>Hole, mm</th>
            </tr>
          </thead>
          <tbody>
            {land.pads.map((p, i) => (
              <tr key={i} className="border-t border-line/60 tabular-nums">
                <td className="py-0.5 pr-3 font-semibold">{p.number}</td>
                <td className="pr-3">
                  {[
                    p.shape,
                    ...(p.cutOuts ?? []).map((c) => `cut out ${c.shape} ${c.width} × ${c.height}`),
                    ...(p.below ? ['other copper below'] : []),
                    ...(p.inner ? ['other copper within'] : []),
                  ].join(', ')}
                </td>
                <td className="pr-3 text-right">{p.at.x}</td>
                <td className="pr-3 text-right">{p.at.y}</td>
                <td className="pr-3 text-right">
                  {p.width} × {p.height}
                </td>
                <td>{p.hole && p.hole !== '0' ? `${p.hole}${p.unplated ? ', not plated' : ''}` : ''}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Panel>
  );
}
