import { useState, type ReactNode } from 'react';
import { Button, Chip, Dialog, Field, LifeState, Select, Trouble } from '../../ui/kit';
import { Moved } from '../../ui/moved';
import { useSay } from '../../ui/toast';
import { closed, useLife, useMove, type Life, type LifeMove } from './queries';

/** Makes one move, after what keeps the thing from it was shown. It names the version that was looked at. */
export function MoveDialog({
  life: seen,
  move: m,
  name,
  changes,
  onClose,
}: {
  life: Life;
  move: LifeMove;
  name: string;
  /** What a release would change, to be shown before it. */
  changes?: ReactNode;
  onClose: () => void;
}) {
  const [life] = useState(seen);
  const [note, setNote] = useState('');
  const [minor, setMinor] = useState(m.minor ?? false);
  const now = useLife(life.id);
  const move = useMove();
  const say = useSay();
  const open = closed(m);
  const waived = m.gates.filter((g) => g.waived);
  return (
    <Dialog open title={`${m.label}: ${name}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          move.mutate(
            { move: m.key, note, minor: m.asMinor ? minor : undefined, things: [{ id: life.id, version: life.version }] },
            {
              onSuccess: (done) => {
                say(
                  done.holders.length > 0
                    ? `${name} is ${m.to.word}. Held by ${done.holders.slice(0, 5).join(', ')}${done.holders.length > 5 ? ` and ${done.holders.length - 5} more` : ''}.`
                    : m.releases
                      ? `${name} is ${m.to.word}: everybody sees it now.`
                      : `${name} is ${m.to.word}.`,
                );
                onClose();
              },
            },
          );
        }}
      >
        <p className="text-sm">
          It becomes <LifeState of={m.to} />
          {m.to.use === 'no' && ' and may not be used any more; whoever holds it is flagged.'}
          {m.to.use === 'with caution' && ', which may be used with caution.'}
        </p>
        {m.releases && changes}
        {open.length > 0 && (
          <div className="rounded border border-rust p-2 text-sm">
            <p className="font-semibold">This keeps it from it:</p>
            <ul className="mt-1 space-y-1">
              {open.map((g) => (
                <li key={g.gate + g.why}>
                  <Chip tone="bad">{g.gate}</Chip> {g.why}
                  {g.mend && <span className="text-soft">: {g.mend}</span>}
                </li>
              ))}
            </ul>
          </div>
        )}
        {waived.length > 0 && <p className="text-sm text-soft">By a waiver it passes: {waived.map((g) => g.gate).join(', ')}.</p>}
        {m.asMinor && (
          <Select
            label="Counted as"
            value={minor ? 'minor' : 'major'}
            onChange={(e) => setMinor(e.target.value === 'minor')}
            hint={`Suggested: ${m.minor ? 'minor' : 'major'}, because ${m.because}`}
          >
            <option value="minor">minor: {m.asMinor}</option>
            <option value="major">major: {m.asMajor}</option>
          </Select>
        )}
        <Field label="Note" required={m.note} maxLength={2000} value={note} onChange={(e) => setNote(e.target.value)} />
        {now.data && <Moved was={life} now={now.data} />}
        <Trouble error={move.error} />
        <Button look="act" type="submit" disabled={move.isPending || open.length > 0}>
          {m.label}
        </Button>
      </form>
    </Dialog>
  );
}
