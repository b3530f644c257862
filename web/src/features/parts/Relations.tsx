import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { Button, Chip, Dialog, Field, Panel, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { useFormerNumber, useMerge, useSuccessor, type Part } from './queries';

/** What a part has to do with others: former numbers, its successor, parts that equal it. */
export function Relations({ part }: { part: Part }) {
  const may = useMay();
  const [open, setOpen] = useState<'merge' | 'successor' | 'former'>();
  const close = () => setOpen(undefined);
  const link = (n: string) => (
    <Link className="underline" to={`/parts/${encodeURIComponent(n)}`}>
      {n}
    </Link>
  );
  if (part.mergedTo)
    return (
      <Panel title="Merged">
        <p className="text-sm">
          <Chip tone="bad">merged</Chip> This part is one with {link(part.mergedTo)}: its numbers lead there, and so do its sources.
        </p>
      </Panel>
    );
  return (
    <Panel
      title="Related parts"
      actions={
        <>
          {may('part.edit') && <Button onClick={() => setOpen('former')}>Former number…</Button>}
          {may('part.standing') && <Button onClick={() => setOpen('successor')}>Successor…</Button>}
          {may('part.merge') && <Button onClick={() => setOpen('merge')}>Merge…</Button>}
        </>
      }
    >
      <dl className="grid grid-cols-[9rem_1fr] gap-y-1 text-sm">
        <dt className="text-soft">Former numbers</dt>
        <dd>{part.former.join(', ') || 'none'}</dd>
        <dt className="text-soft">Replaced by</dt>
        <dd>
          {part.successor ? (
            <>
              {link(part.successor.number)} <span className="text-soft">({part.successor.why})</span>
            </>
          ) : (
            'nothing'
          )}
        </dd>
        {part.alike.length > 0 && (
          <>
            <dt className="text-soft">Alike</dt>
            <dd>
              <Chip tone="open">equal in what identifies a part</Chip>{' '}
              {part.alike.map((n) => (
                <span key={n}>{link(n)} </span>
              ))}
              <Link
                className="underline"
                to={`/compare?${[part.number, ...part.alike]
                  .slice(0, 6)
                  .map((n) => `part=${encodeURIComponent(n)}`)
                  .join('&')}`}
              >
                compare
              </Link>
            </dd>
          </>
        )}
      </dl>
      {open === 'merge' && <MergeDialog part={part} onClose={close} />}
      {open === 'successor' && <SuccessorDialog part={part} onClose={close} />}
      {open === 'former' && <FormerDialog part={part} onClose={close} />}
    </Panel>
  );
}

function MergeDialog({ part, onClose }: { part: Part; onClose: () => void }) {
  const merge = useMerge(part);
  const navigate = useNavigate();
  const say = useSay();
  const [into, setInto] = useState(part.alike[0] ?? '');
  const [why, setWhy] = useState('');
  return (
    <Dialog title={`Merge ${part.number} into another part`} open onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          merge.mutate(
            { into, why },
            {
              onSuccess: (p) => (say(`${part.number} leads to ${p.number} now.`), void navigate(`/parts/${encodeURIComponent(p.number)}`)),
            },
          );
        }}
      >
        <p className="text-sm">
          The other part survives: {part.number} and its former numbers lead to it, and it takes over the sources it lacks. BOMs that name{' '}
          {part.number} are shown as behind. {part.number} itself stays readable and can no longer be changed.
        </p>
        <Field label="Number of the part that survives" required value={into} onChange={(e) => setInto(e.target.value)} />
        <Field label="Why" required maxLength={500} value={why} onChange={(e) => setWhy(e.target.value)} />
        <Trouble error={merge.error} />
        <Button look="danger" type="submit" disabled={merge.isPending}>
          Merge
        </Button>
      </form>
    </Dialog>
  );
}

function SuccessorDialog({ part, onClose }: { part: Part; onClose: () => void }) {
  const name = useSuccessor(part);
  const say = useSay();
  const [number, setNumber] = useState(part.successor?.number ?? '');
  const [why, setWhy] = useState('');
  return (
    <Dialog title={`What replaces ${part.number}`} open onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          name.mutate(
            { number, why },
            { onSuccess: () => (say(number ? `${part.number} is replaced by ${number}.` : 'The successor is withdrawn.'), onClose()) },
          );
        }}
      >
        <Field label="Number of the successor" value={number} onChange={(e) => setNumber(e.target.value)} hint="Blank withdraws it" />
        <Field label="Why" required maxLength={500} value={why} onChange={(e) => setWhy(e.target.value)} />
        <Trouble error={name.error} />
        <Button look="act" type="submit" disabled={name.isPending}>
          Save
        </Button>
      </form>
    </Dialog>
  );
}

function FormerDialog({ part, onClose }: { part: Part; onClose: () => void }) {
  const add = useFormerNumber(part);
  const say = useSay();
  const [number, setNumber] = useState('');
  return (
    <Dialog title={`Another number that finds ${part.number}`} open onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate({ number }, { onSuccess: () => (say(`${number} finds ${part.number} now.`), onClose()) });
        }}
      >
        <Field
          label="Number"
          required
          maxLength={64}
          value={number}
          onChange={(e) => setNumber(e.target.value)}
          hint="From an older list, or from a library the part came from"
        />
        <Trouble error={add.error} />
        <Button look="act" type="submit" disabled={add.isPending}>
          Add
        </Button>
      </form>
    </Dialog>
  );
}
