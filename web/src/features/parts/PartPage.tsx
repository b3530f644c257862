import { useCabinet } from '../cabinet/queries';
import { useState, type ReactNode } from 'react';
import { Link, useParams } from 'react-router';
import { ApiError, type Schemas } from '../../api/client';
import { Button, Chip, Dialog, Empty, LifeState, PageHead, Panel, State } from '../../ui/kit';
import { Looked } from '../../ui/looked';
import { useSay } from '../../ui/toast';
import { Talk } from '../comments';
import { BulkMove, LifePanel, MoveButtons, Trail, useHeldBy } from '../lifecycles';
import { WatchButton } from '../notices';
import { LinkedSheets } from './LinkedSheets';
import { PartModels } from '../models';
import { useMay } from '../people';
import { ModelsArrived, OffersPanel } from '../suppliers/OffersPanel';
import { PartForm } from './PartForm';
import { AttachDialog } from './AttachDialog';
import { Asked, Stale } from '../../ui/asked';
import { Offer, useTyped } from '../../ui/unsaved';
import { Relations } from './Relations';
import { BackDialog, Changes, CompareDialog, Revisions } from './Revisions';
import { asEdit, useDiff, usePart, useSaveDraft, type Content, type Edit, type Part } from './queries';

export function PartPage() {
  const { key = '' } = useParams();
  const part = usePart(key);
  const cabinet = useCabinet();
  const [editing, setEditing] = useState<Part>();
  const edited = editing && cabinet.data?.drawers.find((d) => d.key === (editing.draft ?? editing.released)?.drawer);
  // What is being edited stays, whatever becomes of the questions behind it.
  if (editing && edited) return <Editing was={editing} drawer={edited} onDone={() => setEditing(undefined)} />;
  return (
    <Asked of={cabinet}>
      {(c) => <Asked of={part}>{(p) => <PartView key={p.id} p={p} drawers={c.drawers} onEdit={() => setEditing(p)} />}</Asked>}
    </Asked>
  );
}

function PartView({ p, drawers, onEdit }: { p: Part; drawers: Schemas['Drawer'][]; onEdit: () => void }) {
  const may = useMay();
  const [open, setOpen] = useState<'compare' | 'attach'>();
  const [proposed, setProposed] = useState<{ to: string; said: string }>();
  const [side, setSide] = useState<'newest' | 'released'>('newest');
  const [back, setBack] = useState<number>();
  const heldBy = useHeldBy(p.id);
  const content = (side === 'released' ? p.released : undefined) ?? p.draft ?? p.released;
  if (!content) return <Empty title="This part has no content" />;
  const drawer = drawers.find((d) => d.key === content.drawer);
  const draft = p.draft && (p.states.draft ?? p.states.status);
  const still = draft && !draft.change ? draft : undefined; // a state in which content does not change
  return (
    <>
      <Looked kind="part" id={p.id} number={p.number} what={content.description} />
      <PageHead
        title={
          <>
            {p.number} {content.name && content.name !== p.number && <span className="font-normal">{content.name} </span>}
            <span className="font-normal text-soft">{content.description}</span>
          </>
        }
        sub={
          <span className="flex flex-wrap items-center gap-2">
            <LifeState of={p.states.status} more={p.revision ? `revision ${p.states.label}` : ''} />
            {p.states.draft && <Chip tone="open">beside it: {p.states.draft.word}</Chip>}
            <LifeState of={p.states.standing} />
            <Link to={`/parts?drawer=${content.drawer}`} className="underline">
              {drawer?.label ?? content.drawer}
            </Link>
          </span>
        }
      >
        <Link
          to={`/where-used?part=${encodeURIComponent(p.number)}`}
          className="inline-flex min-h-7 items-center rounded border border-line bg-sheet px-2.5 text-sm font-medium hover:bg-tint"
        >
          Where used
        </Link>
        <WatchButton of="part" about={p.id} name={p.number} />
        {p.draft && p.released && (
          <Button onClick={() => setSide(side === 'newest' ? 'released' : 'newest')}>
            {side === 'newest' ? `Show revision ${p.revision}` : 'Show the draft'}
          </Button>
        )}
        {may('part.edit') && (
          <>
            <Button
              onClick={onEdit}
              disabled={still !== undefined || heldBy !== undefined}
              title={
                still
                  ? `In the state “${still.word}” its content does not change: send it back first`
                  : heldBy && `${heldBy} holds it: ask, wait, or let a librarian take it over`
              }
            >
              Edit
            </Button>
            <Link
              to={`/parts/new?copy=${encodeURIComponent(p.number)}`}
              className="inline-flex min-h-7 items-center rounded border border-line bg-sheet px-2.5 text-sm font-medium hover:bg-tint"
            >
              Copy
            </Link>
          </>
        )}
        {may('thing.move') && <MoveButtons id={p.id} name={p.number} changes={<ReleaseChanges part={p} />} />}
      </PageHead>
      <div className="min-h-0 flex-1 overflow-auto p-4">
        <div className="grid gap-3 xl:grid-cols-[3fr_2fr]">
          <div className="space-y-3">
            <Findings content={content} newer={p.newer} />
            <Values content={content} />
            <Panel title="Sources" actions={may('part.edit') && <Button onClick={() => setOpen('attach')}>Attach a source…</Button>}>
              {content.sources.length === 0 ? (
                <p className="text-sm text-soft">No source yet.</p>
              ) : (
                <table className="w-full text-sm">
                  <thead>
                    <tr className="text-left text-xs text-soft">
                      <th className="py-1 pr-3">Manufacturer</th>
                      <th className="pr-3">MPN</th>
                      <th>Suppliers</th>
                    </tr>
                  </thead>
                  <tbody>
                    {content.sources.map((s) => (
                      <tr key={s.manufacturer + s.mpn} className="border-t border-line/60">
                        <td className="py-1 pr-3">{s.manufacturer}</td>
                        <td className="pr-3 font-semibold">{s.mpn}</td>
                        <td>
                          {s.numbers?.map((n) => `${n.supplier} ${n.number}`).join('; ')}
                          {s.unlike && (
                            <Chip tone="bad">
                              not equal:{' '}
                              {Object.entries(s.unlike)
                                .map(([key, text]) => `${drawer?.slots.find((x) => x.key === key)?.label ?? key} ${text}`)
                                .join(', ')}
                            </Chip>
                          )}
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              )}
            </Panel>
            <OffersPanel
              number={p.number}
              question={content.sources[0]?.mpn ?? content.description}
              onMove={(to, said) => setProposed({ to, said })}
            />
          </div>
          <div className="space-y-3">
            <LifePanel id={p.id} name={p.number} />
            <PartModels part={p} content={content} letter={drawer?.designator} arrived={<ModelsArrived number={p.number} />} />
            <Panel title="Datasheets">
              {content.datasheets.length + content.datasheetLinks.length === 0 && <p className="text-sm text-soft">None attached.</p>}
              <ul className="text-sm">
                {content.datasheets.map((d) => (
                  <li key={d.hash}>
                    <a className="underline" href={`/api/v1/files/${d.hash}?name=${encodeURIComponent(d.name)}`} download={d.name}>
                      {d.name}
                    </a>
                  </li>
                ))}
              </ul>
              {content.datasheetLinks.length > 0 && <LinkedSheets part={p} links={content.datasheetLinks} />}
            </Panel>
            {p.series.map((s) => (
              <Panel key={s.id} title={`Series ${s.name}`}>
                <p className="text-sm">
                  <Link className="font-semibold underline" to={`/series/${s.id}`}>
                    {s.number}
                  </Link>
                  <span className="text-soft">
                    : {s.members} part numbers{s.datasheets.length > 0 && ' share '}
                  </span>
                  {s.datasheets.map((d) => (
                    <a
                      key={d.hash}
                      className="mr-2 underline"
                      href={`/api/v1/files/${d.hash}?name=${encodeURIComponent(d.name)}`}
                      download={d.name}
                    >
                      {d.name}
                    </a>
                  ))}
                </p>
                <Talk id={s.id} />
              </Panel>
            ))}
            <Relations part={p} />
            <Revisions part={p} onCompare={() => setOpen('compare')} onBack={setBack} />
            <Talk id={p.id} abouts={Object.fromEntries(content.values.map((v) => [`values.${v.key}`, v.label]))} />
            <Trail id={p.id} />
          </div>
        </div>
      </div>
      {proposed && (
        <BulkMove
          things={[{ id: p.id, version: p.version }]}
          {...proposed}
          onClose={() => setProposed(undefined)}
          onDone={() => undefined}
        />
      )}
      {open === 'attach' && <AttachDialog part={p} content={content} onClose={() => setOpen(undefined)} />}
      {open === 'compare' && <CompareDialog part={p} onClose={() => setOpen(undefined)} />}
      {back && <BackDialog part={p} revision={back} onClose={() => setBack(undefined)} />}
    </>
  );
}

/** What a release would change in what others see. */
function ReleaseChanges({ part }: { part: Part }) {
  const diff = useDiff(part.id, part.revision, 0, part.revision > 0 && part.draft !== undefined);
  if (!diff.data) return null;
  return <Changes changes={diff.data.changes} from={`revision ${part.states.label}`} to="draft" />;
}

function Findings({ content, newer }: { content: Content; newer: string[] }) {
  if (content.findings.length + newer.length === 0) return null;
  return (
    <Panel title="Findings">
      <ul className="space-y-1 text-sm">
        {content.findings.map((f) => (
          <li key={f.cause + f.what} className="flex gap-2">
            <State of={f.severity} />
            <span>
              {f.what}
              {f.mend && <span className="text-soft">: {f.mend}</span>}
            </span>
          </li>
        ))}
        {newer.map((n) => (
          <li key={n} className="flex gap-2">
            <Chip tone="open">look at it</Chip>
            {n}
          </li>
        ))}
      </ul>
    </Panel>
  );
}

/** Where a value came from, in a few words. */
function origin(v: Schemas['Value']): ReactNode {
  const o = v.origin;
  if (!o) return '';
  if (!o.file && !o.person) return o.rule ?? '';
  if (!o.file && o.rule) return <TakenOver rule={o.rule} by={o.person ?? 'somebody'} />;
  if (!o.file) return `typed by ${o.person ?? 'somebody'}`;
  return `${o.name}, row ${o.row}, ${o.field}${o.written && o.written !== v.text ? ` (“${o.written}”)` : ''}${o.rule ? `; ${o.rule}` : ''}`;
}

/** What was taken over from elsewhere: a supplier's answer is kept, and can be looked at. */
function TakenOver({ rule, by }: { rule: string; by: string }) {
  const answer = /^(.*) \((.*), answer ([0-9a-f]{64})\)$/s.exec(rule);
  if (!answer)
    return (
      <>
        {rule}; taken over by {by}
      </>
    );
  const [, said, when, hash] = answer;
  return (
    <>
      <span title={when}>{said}</span>, taken over by {by} (
      <a className="underline" download href={`/api/v1/files/${hash}?name=answer.txt`}>
        the answer
      </a>
      )
    </>
  );
}

/** What each piece of a received text was taken for. */
function Taken({ pieces }: { pieces: Schemas['MeasureShown'][] }) {
  return (
    <span className="mt-0.5 flex flex-wrap gap-x-2" aria-label="What each piece was taken for">
      {pieces.map((p) => (
        <span key={p.from}>
          <span className="font-mono text-ink">{p.text}</span> {p.as}
        </span>
      ))}
    </span>
  );
}

function Values({ content }: { content: Content }) {
  return (
    <Panel title="Parameters">
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-xs text-soft">
            <th className="py-1 pr-3">Parameter</th>
            <th className="pr-3 text-right">Value</th>
            <th className="pl-3">Where from</th>
          </tr>
        </thead>
        <tbody>
          {content.values.map((v) => (
            <tr key={v.key} className="border-t border-line/60">
              <th scope="row" className="py-1 pr-3 text-left font-medium text-soft">
                {v.label}
              </th>
              <td className="pr-3 text-right font-semibold whitespace-nowrap" title={v.origin?.written}>
                {v.text || <span className="font-normal text-soft">blank</span>} {v.type === 'raw' && <Chip tone="bad">not read</Chip>}
              </td>
              <td className="py-1 pl-3 text-xs text-soft">
                {origin(v)}
                {(v.tally?.length ?? 0) > 1 && <Taken pieces={v.tally ?? []} />}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Panel>
  );
}

/**
 * Editing keeps the version it began with, and what is typed, whatever happens around it. When somebody else was quicker, both
 * sides are shown and nothing is lost.
 */
function Editing({ was, drawer, onDone }: { was: Part; drawer: Schemas['Drawer']; onDone: () => void }) {
  const [version, setVersion] = useState(was.version);
  const [mine, setMine] = useState<Edit>();
  const [taken, setTaken] = useState<Edit>();
  const [beside, setBeside] = useState(false);
  const [cancelling, setCancelling] = useState(false);
  const save = useSaveDraft(was.id);
  const now = usePart(was.id);
  const say = useSay();
  const { kept, typed, settled, leaving } = useTyped<Edit>(`part ${was.id}`, version);
  const start = taken ?? asEdit((was.draft ?? was.released) as Content);
  const refused = save.error instanceof ApiError ? save.error.problem.current : undefined;
  const newer = now.data && now.data.version > version ? now.data : undefined;
  const current = refused ?? (beside ? newer : undefined);
  const end = () => {
    settled();
    onDone();
  };
  const send = (e: Edit, v = version) => {
    setMine(e);
    save.mutate(
      { version: v, body: e },
      {
        onSuccess: () => {
          say(`${was.number}: the draft is saved. It is not released yet.`);
          end();
        },
      },
    );
  };
  return (
    <>
      <PageHead title={`Edit ${was.number}`} sub="What you save is a draft until it is released." />
      <Stale of={now} />
      {newer && !current && (
        <div role="status" className="flex flex-wrap items-center gap-2 border-b border-amber bg-amber-tint px-4 py-1 text-sm">
          <span aria-hidden="true">◐</span>
          <span className="min-w-56 flex-1">{was.number} was changed by somebody else while you edit. What you typed is still here.</span>
          <Button onClick={() => setBeside(true)}>Show both</Button>
        </div>
      )}
      <div className="min-h-0 flex-1 space-y-3 overflow-auto p-4">
        {!taken && (
          <Offer
            kept={kept}
            version={was.version}
            what={was.number}
            onDrop={settled}
            onTake={(k) => {
              setTaken(k.value);
              setMine(k.value);
              setVersion(k.version);
            }}
          />
        )}
        <PartForm
          key={taken ? 'taken' : 'begun'}
          drawer={drawer}
          start={start}
          busy={save.isPending}
          error={current ? undefined : save.error}
          saveText="Save the draft"
          onChanged={(e) => {
            setMine(e ?? taken);
            typed(e ?? taken);
          }}
          onSave={(e) => send(e)}
          onCancel={() => (mine ? setCancelling(true) : end())}
        />
      </div>
      {leaving}
      {cancelling && (
        <Dialog open title="Discard what you typed?" onClose={() => setCancelling(false)}>
          <p className="mb-3 text-sm">Your changes to {was.number} are not saved.</p>
          <div className="flex gap-2">
            <Button look="act" onClick={() => setCancelling(false)}>
              Go on editing
            </Button>
            <Button look="danger" onClick={end}>
              Discard them
            </Button>
          </div>
        </Dialog>
      )}
      {current && (
        <Conflict
          message={refused ? (save.error?.message ?? '') : `${was.number} was changed by somebody else while you edit.`}
          current={current}
          mine={mine ?? start}
          drawer={drawer}
          onTheirs={end}
          onMine={() => {
            setVersion(current.version);
            send(mine ?? start, current.version);
          }}
          onBack={() => {
            setVersion(current.version); // both sides were seen
            setBeside(false);
            save.reset();
          }}
        />
      )}
    </>
  );
}

function Conflict({
  message,
  current,
  mine,
  drawer,
  onTheirs,
  onMine,
  onBack,
}: {
  message: string;
  current: Part;
  mine: Edit;
  drawer: Schemas['Drawer'];
  onTheirs: () => void;
  onMine: () => void;
  onBack: () => void;
}) {
  // prettier-ignore
  const theirs = asEdit((current.draft ?? current.released) as Content);
  const rows = [
    { key: 'description', label: 'Description', a: theirs.description ?? '', b: mine.description ?? '' },
    ...drawer.slots.map((s) => ({ key: s.key, label: s.label, a: theirs.values?.[s.key] ?? '', b: mine.values?.[s.key] ?? '' })),
    { key: 'sources', label: 'Sources', a: sourcesText(theirs), b: sourcesText(mine) },
  ].filter((r) => r.a !== r.b);
  return (
    <Dialog wide open title="Somebody else saved first" onClose={onBack}>
      <p className="mb-2 text-sm">{message}</p>
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-xs text-soft">
            <th className="py-1">Field</th>
            <th>In the library now</th>
            <th>Yours</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.key} className="border-t border-line">
              <th scope="row" className="py-1 pr-3 text-left font-medium">
                {r.label}
              </th>
              <td className="pr-3">{r.a || <span className="text-soft">blank</span>}</td>
              <td>{r.b || <span className="text-soft">blank</span>}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length === 0 && <p className="text-sm">The two do not differ in what the form shows.</p>}
      <div className="mt-4 flex flex-wrap gap-2">
        <Button look="act" onClick={onBack}>
          Back to my edit
        </Button>
        <Button look="danger" onClick={onMine}>
          Save mine over theirs
        </Button>
        <Button onClick={onTheirs}>Keep theirs</Button>
      </div>
    </Dialog>
  );
}

function sourcesText(e: Edit) {
  return (e.sources ?? []).map((s) => `${s.manufacturer} ${s.mpn}`).join('; ');
}
