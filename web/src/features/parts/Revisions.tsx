import { useState } from 'react';
import { ApiError, type Schemas } from '../../api/client';
import { Button, Dialog, Field, LifeState, Panel, Trouble } from '../../ui/kit';
import { Differences, DrawnBeside, revisionName, useTwoRevisions } from '../../ui/beside';
import { Moved } from '../../ui/moved';
import { preview } from '../../ui/previews';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { useDiff, useGoBack, type Part } from './queries';

export function Revisions({ part, onCompare, onBack }: { part: Part; onCompare: () => void; onBack: (revision: number) => void }) {
  const may = useMay();
  const sides = part.revisions.length + (part.draft ? 1 : 0);
  return (
    <Panel title="Revisions" actions={sides > 1 && <Button onClick={onCompare}>Compare…</Button>}>
      {part.revisions.length === 0 && <p className="text-sm text-soft">Not released yet.</p>}
      <ol className="space-y-1 text-sm">
        {part.revisions.map((r) => (
          <li key={r.number} className="flex items-baseline justify-between gap-2">
            <span>
              <strong>{r.label}</strong> {r.state.meaning !== 'in use' && <LifeState of={r.state} />} {r.note}
              {r.why && <span className="text-soft"> ({r.why})</span>}
              <span className="text-xs text-soft">
                {' '}
                · {r.by}, {new Date(r.at).toLocaleString()}
              </span>
            </span>
            {may('part.edit') && (part.draft || r.number !== part.revision) && (
              <Button
                look="quiet"
                aria-label={r.number === part.revision ? 'Discard the draft' : `Make revision ${r.number} the draft again`}
                onClick={() => onBack(r.number)}
              >
                {r.number === part.revision ? 'Discard the draft…' : 'Go back…'}
              </Button>
            )}
          </li>
        ))}
      </ol>
    </Panel>
  );
}

export function CompareDialog({ part, onClose }: { part: Part; onClose: () => void }) {
  const { from, to, choices } = useTwoRevisions(part);
  const diff = useDiff(part.id, from, to, true);
  const name = revisionName;
  return (
    <Dialog open wide title={`Compare revisions of ${part.number}`} onClose={onClose}>
      {choices}
      <Trouble error={diff.error} />
      {diff.data && <Changes changes={diff.data.changes} from={name(from)} to={name(to)} />}
      {diff.data?.models.map((m) => {
        const side = (of: typeof m.from, at: string, content?: string, beside?: string) => ({
          title: `${at}: ${of ? `${of.name}, revision ${of.revision}` : `no ${m.place}`}`,
          src: of && content ? preview(of.id, content, false, beside) : undefined,
          alt: `${m.place} of ${at}`,
        });
        return (
          <section key={m.place} className="mt-3">
            <h3 className="mb-1 font-semibold first-letter:uppercase">{m.place}</h3>
            <DrawnBeside sides={[side(m.from, name(from), m.fromContent, m.toContent), side(m.to, name(to), m.toContent, m.fromContent)]} />
          </section>
        );
      })}
    </Dialog>
  );
}

/** Makes an earlier revision the draft again, after its differences from what there is now were shown. */
export function BackDialog({ part: now, revision, onClose }: { part: Part; revision: number; onClose: () => void }) {
  const [part] = useState(now); // what was looked at
  const [why, setWhy] = useState('');
  const [replaceDraft, setReplaceDraft] = useState(false);
  const [leaveOut, setLeaveOut] = useState(false);
  const back = useGoBack(part.id);
  const say = useSay();
  const from = part.draft ? 0 : part.revision;
  const diff = useDiff(part.id, from, revision, true);
  const inUse = revision === part.revision; // then no draft is wanted
  const placeless = back.error instanceof ApiError && back.error.problem.type === '/problems/values-without-place';
  return (
    <Dialog
      open
      wide
      title={
        inUse
          ? `Discard the draft of ${part.number}: revision ${revision} stays in use`
          : `Make revision ${revision} of ${part.number} the draft again`
      }
      onClose={onClose}
    >
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          back.mutate(
            { version: part.version, body: { revision, why, replaceDraft, leaveOut } },
            {
              onSuccess: (p) => {
                say(
                  p.draft
                    ? `The draft of ${p.number} says what revision ${revision} said.`
                    : `The draft is gone: revision ${revision} is in use.`,
                );
                onClose();
              },
            },
          );
        }}
      >
        {diff.data && <Changes changes={diff.data.changes} from={from === 0 ? 'draft' : `revision ${from}`} to={`revision ${revision}`} />}
        <Field label="Why" hint="For the trail" maxLength={500} value={why} onChange={(e) => setWhy(e.target.value)} />
        {part.draft && (
          <label className="flex gap-2 text-sm">
            <input type="checkbox" required checked={replaceDraft} onChange={(e) => setReplaceDraft(e.target.checked)} />
            The draft that is there may go
          </label>
        )}
        <Moved was={part} now={now} />
        <Trouble error={back.error} />
        {(placeless || leaveOut) && (
          <label className="flex gap-2 text-sm">
            <input type="checkbox" checked={leaveOut} onChange={(e) => setLeaveOut(e.target.checked)} />
            These values may be left out
          </label>
        )}
        <Button look="act" type="submit" disabled={back.isPending}>
          {inUse ? 'Discard the draft' : 'Make it the draft'}
        </Button>
      </form>
    </Dialog>
  );
}

export function Changes({ changes, from, to }: { changes: Schemas['DocumentChange'][]; from: string; to: string }) {
  const rows = changes.map((c) => ({ label: c.path.replace(/^values\./, ''), from: c.old, to: c.new }));
  return <Differences head="Field" from={from} to={to} rows={rows} />;
}
