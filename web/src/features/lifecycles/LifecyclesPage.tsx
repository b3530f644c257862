import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { type Schemas } from '../../api/client';
import { Asked } from '../../ui/asked';
import { Button, Chip, Dialog, LifeState, PageHead, Panel, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { Offer, useTyped } from '../../ui/unsaved';
import { useMay } from '../people';
import { MoveEditor, RemoveState, StateEditor } from './editors';
import { Picture } from './Picture';
import { useApply, useLifecycles, usePreview, useWaivers, type Document, type Lifecycle } from './queries';

type State = Schemas['LifecycleState'];
type Move = Schemas['LifecycleMove'];

/** The lifecycles in force, each as a table from state to state. */
export function LifecyclesPage() {
  const all = useLifecycles();
  return <Asked of={all}>{(l) => <Lifecycles all={l.items} />}</Asked>;
}

function Lifecycles({ all }: { all: Lifecycle[] }) {
  const [params, setParams] = useSearchParams();
  const shown = all.find((l) => l.name === params.get('name')) ?? all[0];
  return (
    <>
      <PageHead
        title="Lifecycles"
        sub="Which states there are, which moves lead from one to the next, who may make them, and what must hold first"
      />
      <div role="tablist" aria-label="Lifecycles" className="flex flex-wrap gap-1 border-b border-line bg-ground px-4 pt-2">
        {all.map((l) => (
          <button
            key={l.name}
            type="button"
            role="tab"
            aria-selected={l === shown}
            onClick={() => setParams({ name: l.name })}
            className={`label-holder px-3 py-1.5 text-sm font-semibold ${l === shown ? 'border-b-amber bg-sheet' : 'text-soft hover:bg-sheet'}`}
          >
            {l.name}
          </button>
        ))}
      </div>
      {shown && <One key={`${shown.name} ${shown.version}`} l={shown} />}
    </>
  );
}

function One({ l }: { l: Lifecycle }) {
  const may = useMay();
  const [doc, setDoc] = useState<Document>(l.document);
  const [move, setMove] = useState<{ was?: Move; from: string; to: string }>();
  const [state, setState] = useState<{ was?: State; track: 'status' | 'standing' }>();
  const [gone, setGone] = useState<{ state: State; track: 'status' | 'standing' }>();
  const [looking, setLooking] = useState(false);
  const { kept, typed, settled, leaving } = useTyped<Document>(`lifecycle ${l.name}`, l.version);
  const edit = may('lifecycle.apply');
  const changed = doc !== l.document;
  const take = (d: Document) => {
    setDoc(d);
    typed(d);
  };
  const table = (track: 'status' | 'standing', title: string) => (
    <Panel title={title} actions={edit && <Button onClick={() => setState({ track })}>Add a state…</Button>}>
      <Grid
        doc={doc}
        track={track}
        onCell={edit ? (from, to, was) => setMove({ from, to, was }) : undefined}
        onState={edit ? (was) => setState({ track, was }) : undefined}
        onRemove={edit ? (s) => setGone({ state: s, track }) : undefined}
      />
      <Picture doc={doc} track={track} />
    </Panel>
  );
  return (
    <div className="min-h-0 flex-1 space-y-3 overflow-auto p-4">
      <div className="flex flex-wrap items-center gap-2 text-sm">
        <span>
          Of {l.of} · {l.shipped ? 'as it ships' : `revision ${l.revision}`} · revisions are counted by <strong>{doc.counting}</strong>
          {l.drawers.length > 0 && ` · named by the drawers ${l.drawers.join(', ')}`}
        </span>
        {edit && (
          <label className="flex items-center gap-1">
            <span className="text-soft">count by</span>
            <select
              className="rounded border border-line bg-sheet px-1 py-0.5"
              value={doc.counting}
              onChange={(e) => take({ ...doc, counting: e.target.value })}
            >
              <option>numbers</option>
              <option>major.minor</option>
              <option>letters</option>
            </select>
          </label>
        )}
        <span className="flex-1" />
        {changed && (
          <>
            <Chip tone="open">changed, not in force yet</Chip>
            <Button
              onClick={() => {
                setDoc(l.document);
                settled();
              }}
            >
              Discard
            </Button>
            <Button look="act" onClick={() => setLooking(true)}>
              See what it changes…
            </Button>
          </>
        )}
      </div>
      {!changed && (
        <Offer kept={kept} version={l.version} what={`the lifecycle ${l.name}`} onDrop={settled} onTake={(k) => take(k.value)} />
      )}
      {table('status', 'Status: where content is on its way')}
      {table('standing', 'Standing: how a thing may be used')}
      {Object.keys(doc.becomes ?? {}).length > 0 && (
        <p className="text-sm text-soft">
          Earlier states:{' '}
          {Object.entries(doc.becomes ?? {})
            .map(([a, b]) => `${a} is ${b} now`)
            .join('; ')}
          .
        </p>
      )}
      <Waivers />
      {leaving}
      {move && <MoveEditor doc={doc} {...move} onClose={() => setMove(undefined)} onTake={take} />}
      {state && <StateEditor doc={doc} {...state} onClose={() => setState(undefined)} onTake={take} />}
      {gone && <RemoveState doc={doc} {...gone} onClose={() => setGone(undefined)} onTake={take} />}
      {looking && <Consequences l={l} doc={doc} onClose={() => setLooking(false)} onDone={settled} />}
    </div>
  );
}

const who = (w: Schemas['LifecycleWho']) => [w.role, w.group && `of ${w.group}`, w.notAuthor && 'not an author'].filter(Boolean).join(', ');

/** From the states in the rows to the states in the columns; a cell holds the moves. */
function Grid({
  doc,
  track,
  onCell,
  onState,
  onRemove,
}: {
  doc: Document;
  track: 'status' | 'standing';
  onCell?: (from: string, to: string, was?: Move) => void;
  onState?: (s: State) => void;
  onRemove?: (s: State) => void;
}) {
  const states = doc[track];
  return (
    <div className="overflow-auto">
      <table className="w-full text-sm">
        <caption className="sr-only">Moves from state to state</caption>
        <thead>
          <tr className="text-left text-xs text-soft">
            <th className="px-2 py-1">from ↓ to →</th>
            {states.map((s) => (
              <th key={s.key} scope="col" className="px-2 py-1">
                <LifeState of={s} />
              </th>
            ))}
            {onState && <th className="px-2 py-1">State</th>}
          </tr>
        </thead>
        <tbody>
          {states.map((from) => (
            <tr key={from.key} className="border-t border-line/60 align-top">
              <th scope="row" className="px-2 py-1 text-left">
                <LifeState of={from} />
                <span className="block text-xs font-normal text-soft">
                  {from.first && 'first · '}
                  {from.meaning && `${from.meaning} · `}use: {from.use}
                  {from.change && ' · may change'}
                  {from.readout && ' · in the readout'}
                </span>
              </th>
              {states.map((to) => (
                <td key={to.key} className="px-1 py-1">
                  {from.key === to.key ? (
                    <span className="text-soft">—</span>
                  ) : (
                    <>
                      {doc.moves
                        .filter((m) => m.to === to.key && m.from.includes(from.key))
                        .map((m) => (
                          <Cell key={m.key} m={m} onOpen={onCell && (() => onCell(from.key, to.key, m))} />
                        ))}
                      {onCell && !doc.moves.some((m) => m.to === to.key && m.from.includes(from.key)) && (
                        <button
                          type="button"
                          aria-label={`A move from ${from.word} to ${to.word}`}
                          onClick={() => onCell(from.key, to.key)}
                          className="rounded px-2 text-soft hover:bg-tint"
                        >
                          +
                        </button>
                      )}
                    </>
                  )}
                </td>
              ))}
              {onState && onRemove && (
                <td className="px-1 py-1 whitespace-nowrap">
                  <Button look="quiet" aria-label={`Change the state ${from.word}`} onClick={() => onState(from)}>
                    Change…
                  </Button>
                  {!from.first && (
                    <Button look="quiet" aria-label={`Remove the state ${from.word}`} onClick={() => onRemove(from)}>
                      Remove…
                    </Button>
                  )}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Cell({ m, onOpen }: { m: Move; onOpen?: () => void }) {
  const inner = (
    <>
      <span className="block font-semibold">{m.label}</span>
      <span className="block text-xs text-soft">
        {who(m.who)}
        {m.note && ' · note'}
      </span>
      {m.gates?.map((g) => (
        <span key={g.gate} className="mr-1 block text-xs">
          ▸ {g.gate}{' '}
          {Object.entries(g.with ?? {})
            .map(([k, v]) => `${k} ${v}`)
            .join(', ')}
          {g.waive && <span className="text-soft"> (waived by {who(g.waive)})</span>}
        </span>
      ))}
    </>
  );
  if (!onOpen) return <div className="rounded bg-tint px-2 py-1">{inner}</div>;
  return (
    <button type="button" onClick={onOpen} className="block w-full rounded bg-tint px-2 py-1 text-left hover:outline hover:outline-water">
      {inner}
    </button>
  );
}

/** What a changed document would do, before it is put in force. */
function Consequences({ l, doc, onClose, onDone }: { l: Lifecycle; doc: Document; onClose: () => void; onDone: () => void }) {
  const preview = usePreview();
  const apply = useApply();
  const say = useSay();
  const text = JSON.stringify(doc, null, 1);
  const [asked, setAsked] = useState(false);
  if (!asked) {
    setAsked(true);
    preview.mutate(text);
  }
  const p = preview.data;
  return (
    <Dialog open wide title={`What changes when this lifecycle is put in force`} onClose={onClose}>
      <div className="space-y-3">
        <Trouble error={preview.error ?? apply.error} />
        {p && (
          <ul className="space-y-1 text-sm">
            {p.gone.map((g) => (
              <li key={g.was.key} className="flex flex-wrap items-center gap-1">
                <LifeState of={g.was} /> is gone: {g.things === 1 ? '1 thing in it becomes' : `${g.things} things in it become`}{' '}
                <LifeState of={g.becomes} />. Putting the earlier document in force again gives them back.
              </li>
            ))}
            {p.added.map((a) => (
              <li key={a}>New state: {a}</li>
            ))}
            {p.moves.map((m) => (
              <li key={m}>{m}</li>
            ))}
            {p.counting && <li>Revisions are counted by {p.counting} from now on; labels that are there stay.</li>}
            {p.gone.length + p.added.length + p.moves.length === 0 && !p.counting && (
              <li>Words, meanings or shapes only: no state goes, and no move changes.</li>
            )}
          </ul>
        )}
        <Button
          look="act"
          disabled={!p || apply.isPending}
          onClick={() =>
            apply.mutate(
              { version: l.version, text },
              {
                onSuccess: () => {
                  say(`The lifecycle ${l.name} is in force.`);
                  onDone();
                  onClose();
                },
              },
            )
          }
        >
          Put it in force
        </Button>
      </div>
    </Dialog>
  );
}

function Waivers() {
  const waivers = useWaivers();
  if (!waivers.data || waivers.data.items.length === 0) return null;
  return (
    <Panel title={`Waivers of gates (${waivers.data.page.total})`}>
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-xs text-soft">
            <th className="py-1 pr-3">Thing</th>
            <th className="pr-3">Gate</th>
            <th className="pr-3">Why</th>
            <th className="pr-3">By</th>
            <th>Holds</th>
          </tr>
        </thead>
        <tbody>
          {waivers.data.items.map((w) => (
            <tr key={w.thing + w.gate + w.at} className="border-t border-line/60">
              <td className="py-1 pr-3">{w.thing}</td>
              <td className="pr-3">{w.gate}</td>
              <td className="pr-3">{w.why}</td>
              <td className="pr-3">{w.by}</td>
              <td>{w.fallen ? <Chip tone="calm">fallen</Chip> : <Chip tone="open">holds</Chip>}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Panel>
  );
}
