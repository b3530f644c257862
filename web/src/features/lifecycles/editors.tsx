import { useState } from 'react';
import { type Schemas } from '../../api/client';
import { Button, Dialog, Field, Select } from '../../ui/kit';
import { useGroups } from '../people';
import { type Document } from './queries';

type State = Schemas['LifecycleState'];
type Move = Schemas['LifecycleMove'];
type Who = Schemas['LifecycleWho'];
type Gate = Schemas['LifecycleGateUse'];
type Track = 'status' | 'standing';

/** The gates that a move may ask for, with what each is given: all that the service names. */
const asked: Record<Gate['gate'], { asks: string; with?: string; hint?: string }> = {
  required: { asks: 'every required parameter has a value' },
  sources: { asks: 'there are at least so many sources', with: 'at least', hint: '2' },
  production: { asks: 'at least so many sources are in production, as suppliers say', with: 'at least', hint: '1' },
  alternates: { asks: 'no source said otherwise of an identifying parameter' },
  datasheet: { asks: 'a datasheet is attached as a file' },
  findings: { asks: 'no finding is worse than', with: 'at most', hint: 'none, note or warning' },
  identity: { asks: 'no other part is equal in the identifying parameters' },
  models: { asks: 'these models are there and released', with: 'places', hint: 'symbol, land pattern, body' },
  'pin map': { asks: 'the pin map was reviewed' },
  review: { asks: 'a second person signed the review list', with: 'group', hint: 'blank: anybody who is not an author' },
  proof: { asks: 'it worked on at least so many built boards', with: 'at least', hint: '1' },
  settled: { asks: 'every line is a released record, or somebody’s decision' },
};
const gates = Object.entries(asked).map(([gate, a]) => ({ gate: gate as Gate['gate'], ...a }));

/** A key that nothing of the document has yet. */
function freeKey(word: string, taken: string[]): string {
  const base =
    word
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, ' ')
      .trim()
      .replace(/^[^a-z]+/, '')
      .slice(0, 20)
      .trim() || 'state';
  let key = base;
  for (let n = 2; taken.includes(key); n++) key = `${base} ${n}`;
  return key;
}

function WhoFields({ label, who, onChange }: { label: string; who: Who; onChange: (w: Who) => void }) {
  const groups = useGroups();
  return (
    <div className="grid grid-cols-2 items-end gap-2">
      <Select label={`${label}: at least`} value={who.role ?? ''} onChange={(e) => onChange({ ...who, role: e.target.value || undefined })}>
        <option value="">any role that may move</option>
        <option>engineer</option>
        <option>librarian</option>
        <option>administrator</option>
      </Select>
      <Select label="of the group" value={who.group ?? ''} onChange={(e) => onChange({ ...who, group: e.target.value || undefined })}>
        <option value="">any</option>
        {groups.data?.items.map((g) => (
          <option key={g.id}>{g.name}</option>
        ))}
      </Select>
      <label className="col-span-2 flex gap-2 text-sm">
        <input
          type="checkbox"
          checked={who.notAuthor ?? false}
          onChange={(e) => onChange({ ...who, notAuthor: e.target.checked || undefined })}
        />
        not somebody who changed the content since the last release
      </label>
    </div>
  );
}

/** One move, made or changed in the table; nothing is in force until the whole document is. */
export function MoveEditor({
  doc,
  was,
  from,
  to,
  onClose,
  onTake,
}: {
  doc: Document;
  was?: Move;
  from: string;
  to: string;
  onClose: () => void;
  onTake: (d: Document) => void;
}) {
  const word = (key: string) => [...doc.status, ...doc.standing].find((s) => s.key === key)?.word ?? key;
  const [label, setLabel] = useState(was?.label ?? '');
  const [who, setWho] = useState<Who>(was?.who ?? { role: 'librarian' });
  const [note, setNote] = useState(was?.note ?? false);
  const [own, setOwn] = useState<Gate[]>(was?.gates ?? []);
  const of = doc.of;
  const take = (moves: Move[]) => {
    onTake({ ...doc, moves });
    onClose();
  };
  const flip = (gate: Gate['gate'], on: boolean) => setOwn(on ? [...own, { gate }] : own.filter((g) => g.gate !== gate));
  const change = (gate: Gate['gate'], to: Partial<Gate>) => setOwn(own.map((g) => (g.gate === gate ? { ...g, ...to } : g)));
  return (
    <Dialog open wide title={was ? `The move “${was.label}”` : `A move from ${word(from)} to ${word(to)}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          const next: Move = {
            key:
              was?.key ??
              freeKey(
                label,
                doc.moves.map((m) => m.key),
              ),
            label,
            from: was?.from ?? [from],
            to,
            who,
            note: note || undefined,
            gates: own.length > 0 ? own : undefined,
          };
          take(was ? doc.moves.map((m) => (m.key === was.key ? next : m)) : [...doc.moves, next]);
        }}
      >
        {was && was.from.length > 1 && (
          <p className="text-sm text-soft">It begins at {was.from.map(word).join(', ')}; the change holds for all of them.</p>
        )}
        <Field label="Called" required maxLength={60} value={label} onChange={(e) => setLabel(e.target.value)} />
        <WhoFields label="Who may" who={who} onChange={setWho} />
        <label className="flex gap-2 text-sm">
          <input type="checkbox" checked={note} onChange={(e) => setNote(e.target.checked)} />a note is wanted
        </label>
        <fieldset className="space-y-1">
          <legend className="text-xs font-semibold text-soft">What must hold first</legend>
          {gates
            .filter((g) =>
              of === 'parts'
                ? g.gate !== 'settled'
                : ['findings', 'review', 'proof', ...(of === 'boms' ? ['settled'] : [])].includes(g.gate),
            )
            .map((g) => {
              const have = own.find((o) => o.gate === g.gate);
              return (
                <div key={g.gate} className="flex flex-wrap items-center gap-2 text-sm">
                  <label className="flex min-w-72 gap-2">
                    <input type="checkbox" checked={have !== undefined} onChange={(e) => flip(g.gate, e.target.checked)} />
                    {g.gate}: {g.asks}
                  </label>
                  {have && g.with && (
                    <input
                      aria-label={`${g.gate}: ${g.with}`}
                      placeholder={g.hint}
                      className="min-h-7 w-44 rounded border border-line bg-sheet px-2 text-sm"
                      value={have.with?.[g.with] ?? ''}
                      onChange={(e) => {
                        const rest = Object.entries(have.with ?? {}).filter(([k]) => k !== g.with);
                        const all = e.target.value ? [...rest, [g.with, e.target.value]] : rest;
                        change(g.gate, { with: all.length > 0 ? (Object.fromEntries(all) as Record<string, string>) : undefined });
                      }}
                    />
                  )}
                  {have && (
                    <select
                      aria-label={`${g.gate}: who may waive it`}
                      className="min-h-7 rounded border border-line bg-sheet px-1 text-sm"
                      value={have.waive?.role ?? (have.waive ? 'group' : '')}
                      onChange={(e) => change(g.gate, { waive: e.target.value ? { role: e.target.value } : undefined })}
                    >
                      <option value="">nobody may waive it</option>
                      <option value="engineer">an engineer may waive it</option>
                      <option value="librarian">a librarian may waive it</option>
                      <option value="administrator">an administrator may waive it</option>
                      {have.waive?.group && <option value="group">{have.waive.group} may waive it</option>}
                    </select>
                  )}
                </div>
              );
            })}
        </fieldset>
        <div className="flex gap-2">
          <Button look="act" type="submit">
            Take it into the table
          </Button>
          {was && (
            <Button look="danger" onClick={() => take(doc.moves.filter((m) => m.key !== was.key))}>
              Remove the move
            </Button>
          )}
        </div>
      </form>
    </Dialog>
  );
}

const meanings = ['draft', 'in review', 'in use', 'superseded', 'withdrawn'];
const shapes = ['ring', 'half', 'disc', 'square', 'bar', 'cross', 'triangle', 'diamond'];

/** One state, made or changed. Its key stays: things are kept under it. */
export function StateEditor({
  doc,
  track,
  was,
  onClose,
  onTake,
}: {
  doc: Document;
  track: Track;
  was?: State;
  onClose: () => void;
  onTake: (d: Document) => void;
}) {
  const [s, setS] = useState<State>(
    was ?? { key: '', word: '', meaning: track === 'status' ? 'in use' : undefined, use: 'yes', shape: 'square', readout: true },
  );
  const draft = s.meaning === 'draft' || s.meaning === 'in review';
  return (
    <Dialog open title={was ? `The state “${was.word}”` : 'A new state'} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          const keys = [...doc.status, ...doc.standing].map((x) => x.key);
          const next = {
            ...s,
            key: was?.key ?? freeKey(s.word, keys),
            readout: draft ? undefined : s.readout,
            change: draft ? s.change : undefined,
          };
          onTake({ ...doc, [track]: was ? doc[track].map((x) => (x.key === was.key ? next : x)) : [...doc[track], next] });
          onClose();
        }}
      >
        <Field label="Word" required maxLength={40} value={s.word} onChange={(e) => setS({ ...s, word: e.target.value })} />
        {track === 'status' && (
          <Select label="Meaning" value={s.meaning} onChange={(e) => setS({ ...s, meaning: e.target.value })}>
            {meanings.map((m) => (
              <option key={m}>{m}</option>
            ))}
          </Select>
        )}
        <Select label="May what is in it be used?" value={s.use} onChange={(e) => setS({ ...s, use: e.target.value })}>
          <option>yes</option>
          <option>with caution</option>
          <option>no</option>
        </Select>
        <Select label="Shape" value={s.shape} onChange={(e) => setS({ ...s, shape: e.target.value })}>
          {shapes.map((x) => (
            <option key={x}>{x}</option>
          ))}
        </Select>
        {draft ? (
          <label className="flex gap-2 text-sm">
            <input type="checkbox" checked={s.change ?? false} onChange={(e) => setS({ ...s, change: e.target.checked || undefined })} />
            content may change in it
          </label>
        ) : (
          <label className="flex gap-2 text-sm">
            <input type="checkbox" checked={s.readout ?? false} onChange={(e) => setS({ ...s, readout: e.target.checked || undefined })} />
            design tools see what is in it
          </label>
        )}
        <Button look="act" type="submit">
          Take it into the table
        </Button>
      </form>
    </Dialog>
  );
}

/** A state goes, and with it the moves that begin or end there: first it is said where its things go. */
export function RemoveState({
  doc,
  state,
  track,
  onClose,
  onTake,
}: {
  doc: Document;
  state: State;
  track: Track;
  onClose: () => void;
  onTake: (d: Document) => void;
}) {
  const others = doc[track].filter(
    (s) =>
      s.key !== state.key &&
      (s.meaning === 'draft' || s.meaning === 'in review') === (state.meaning === 'draft' || state.meaning === 'in review'),
  );
  const [to, setTo] = useState(others[0]?.key ?? '');
  const lost = doc.moves.filter((m) => m.to === state.key || (m.from.length === 1 && m.from[0] === state.key));
  return (
    <Dialog open title={`Remove the state “${state.word}”`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          onTake({
            ...doc,
            [track]: doc[track].filter((s) => s.key !== state.key),
            moves: doc.moves.filter((m) => !lost.includes(m)).map((m) => ({ ...m, from: m.from.filter((f) => f !== state.key) })),
            becomes: { ...doc.becomes, [state.key]: to },
          });
          onClose();
        }}
      >
        <Select label="What is in it becomes" required value={to} onChange={(e) => setTo(e.target.value)}>
          {others.map((s) => (
            <option key={s.key} value={s.key}>
              {s.word}
            </option>
          ))}
        </Select>
        {lost.length > 0 && <p className="text-sm">With it go the moves {lost.map((m) => `“${m.label}”`).join(', ')}.</p>}
        <Button look="danger" type="submit" disabled={!to}>
          Remove it from the table
        </Button>
      </form>
    </Dialog>
  );
}
