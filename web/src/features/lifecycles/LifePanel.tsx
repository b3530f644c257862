import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { Button, Chip, Dialog, Field, LifeState, Panel, Trouble } from '../../ui/kit';
import { Stale } from '../../ui/asked';
import { useSay } from '../../ui/toast';
import { Held } from '../comments';
import { useMay } from '../people';
import { MoveDialog } from './MoveDialog';
import { useLife, useProve, useWaive, type Life, type LifeMove } from './queries';

/** The moves that a person may make from where a thing is, as buttons; to withdraw a revision stands where all moves are. */
export function MoveButtons({
  id,
  name,
  changes,
  onRelease,
}: {
  id: string;
  name: string;
  changes?: ReactNode;
  /** Where a release is more than a move: the page does it itself. */
  onRelease?: () => void;
}) {
  const life = useLife(id);
  const [move, setMove] = useState<{ life: Life; move: LifeMove }>();
  if (!life.data) return null;
  const mine = life.data.moves.filter((m) => !m.not && !m.standing && m.to.meaning !== 'withdrawn');
  return (
    <>
      {mine.map((m) => (
        <Button
          key={m.key}
          look={m.releases ? 'act' : 'plain'}
          onClick={() => (m.releases && onRelease ? onRelease() : setMove({ life: life.data, move: m }))}
        >
          {m.label}…
        </Button>
      ))}
      {move && <MoveDialog {...move} name={name} changes={changes} onClose={() => setMove(undefined)} />}
    </>
  );
}

/** Where a thing is in its lifecycle: its states, what keeps it from going on, waivers, and the boards that it worked on. */
export function LifePanel({
  id,
  name,
  onRelease,
}: {
  id: string;
  name: string;
  /** Of a BOM: freezing it is more than a move, what was built is said of a revision, and nobody holds it. */
  onRelease?: () => void;
}) {
  const life = useLife(id);
  const may = useMay();
  const [move, setMove] = useState<{ life: Life; move: LifeMove }>();
  const [waive, setWaive] = useState<{ gate: string; said: string }>();
  const [prove, setProve] = useState(false);
  const l = life.data;
  if (!l) return null;
  const standings = l.moves.filter((m) => m.standing && !m.not);
  const others = l.moves.filter((m) => !m.standing);
  return (
    <Panel
      title="Lifecycle"
      actions={
        <>
          {!onRelease && l.states.status.meaning !== 'draft' && l.states.status.meaning !== 'in review' && may('thing.review') && (
            <Button look="quiet" onClick={() => setProve(true)}>
              Worked on a board…
            </Button>
          )}
          <Link to={`/review/${l.id}`} className="px-2 py-1 text-sm text-water underline">
            Review list
          </Link>
        </>
      }
    >
      <Stale of={life} />
      <dl className="mb-2 grid grid-cols-[6.5rem_1fr] gap-y-1 text-sm">
        <dt className="text-soft">Status</dt>
        <dd>
          <LifeState of={l.states.status} more={l.states.label} />
        </dd>
        {l.states.draft && (
          <>
            <dt className="text-soft">Draft</dt>
            <dd>
              <LifeState of={l.states.draft} />
            </dd>
          </>
        )}
        <dt className="text-soft">Standing</dt>
        <dd className="flex flex-wrap items-center gap-1.5">
          <LifeState of={l.states.standing} />
          {standings.map((m) => (
            <Button key={m.key} look="quiet" onClick={() => setMove({ life: l, move: m })}>
              {m.label}…
            </Button>
          ))}
        </dd>
        <dt className="text-soft">Proof</dt>
        <dd>{l.boards > 0 ? `worked on ${l.boards} ${l.boards === 1 ? 'board' : 'boards'}` : 'no board yet'}</dd>
        {!onRelease && (
          <>
            <dt className="text-soft">Held</dt>
            <dd>
              <Held id={l.id} name={name} hold={l.hold} edit={may('part.edit')} />
            </dd>
          </>
        )}
        {l.authors.length > 0 && (
          <>
            <dt className="text-soft">Changed by</dt>
            <dd>{l.authors.join(', ')}</dd>
          </>
        )}
      </dl>
      <ul className="space-y-1.5 text-sm">
        {others.map((m) => (
          <li key={m.key}>
            {m.not ? (
              <span className="font-semibold">{m.label}</span>
            ) : (
              <Button
                look="quiet"
                className="-ml-2.5"
                onClick={() => (m.releases && onRelease ? onRelease() : setMove({ life: l, move: m }))}
              >
                {m.label}…
              </Button>
            )}{' '}
            <span aria-hidden="true">→</span> <LifeState of={m.to} />
            {m.not && <span className="text-soft"> {m.not}</span>}
            {m.gates.some((g) => !g.holds) && (
              <ul className="mt-0.5 space-y-0.5 pl-4">
                {m.gates
                  .filter((g) => !g.holds)
                  .map((g) => (
                    <li key={g.gate + g.why} className="flex flex-wrap items-start gap-2">
                      {g.waived ? <Chip tone="open">waived</Chip> : <Chip tone="bad">keeps it</Chip>}
                      <span className="min-w-40 flex-1">
                        {g.why}
                        {g.mend && <span className="text-soft">: {g.mend}</span>}
                      </span>
                      {g.waive && !g.waived && may('thing.move') && (
                        <Button look="quiet" onClick={() => setWaive({ gate: g.gate, said: g.why })}>
                          Waive…
                        </Button>
                      )}
                    </li>
                  ))}
              </ul>
            )}
          </li>
        ))}
      </ul>
      {l.waivers.length > 0 && (
        <ul className="mt-2 space-y-1 border-t border-line/60 pt-2 text-sm">
          {l.waivers.map((w) => (
            <li key={w.gate + w.at} className="flex flex-wrap items-start gap-2">
              <Chip tone={w.fallen ? 'calm' : 'open'}>{w.fallen ? 'waiver fallen' : 'waiver'}</Chip>
              <span className="min-w-40 flex-1">
                {w.gate}: {w.why} <span className="text-soft">· {w.by}</span>
                {w.fallen && <span className="text-soft"> What it was given for is another now: it counts for nothing.</span>}
              </span>
              {may('thing.move') && <TakeBack life={l} gate={w.gate} />}
            </li>
          ))}
        </ul>
      )}
      {l.proofs.length > 0 && (
        <ul className="mt-2 border-t border-line/60 pt-2 text-sm">
          {l.proofs.map((p) => (
            <li key={p.at}>
              {p.boards} × {p.which} <span className="text-soft">· {p.by}</span> {!p.current && <Chip tone="calm">an earlier content</Chip>}
            </li>
          ))}
        </ul>
      )}
      {move && <MoveDialog {...move} name={name} onClose={() => setMove(undefined)} />}
      {waive && <WaiveDialog life={l} {...waive} name={name} onClose={() => setWaive(undefined)} />}
      {prove && <ProofDialog life={l} name={name} onClose={() => setProve(false)} />}
    </Panel>
  );
}

function TakeBack({ life, gate }: { life: Life; gate: string }) {
  const waive = useWaive(life.id);
  return (
    <Button look="quiet" disabled={waive.isPending} onClick={() => waive.mutate({ version: life.version, body: { gate, why: '' } })}>
      Take back
    </Button>
  );
}

function WaiveDialog({
  life: now,
  gate,
  said,
  name,
  onClose,
}: {
  life: Life;
  gate: string;
  said: string;
  name: string;
  onClose: () => void;
}) {
  const [life] = useState(now); // what was looked at
  const [why, setWhy] = useState('');
  const waive = useWaive(life.id);
  return (
    <Dialog open title={`Let ${name} pass the gate “${gate}”`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          waive.mutate({ version: life.version, body: { gate, why } }, { onSuccess: onClose });
        }}
      >
        <p className="text-sm">It says: {said}. The waiver stays visible, and falls as soon as what the gate looked at is another.</p>
        <Field label="Why it may pass" required maxLength={500} value={why} onChange={(e) => setWhy(e.target.value)} />
        <Trouble error={waive.error} />
        <Button look="act" type="submit" disabled={waive.isPending}>
          Waive
        </Button>
      </form>
    </Dialog>
  );
}

function ProofDialog({ life: now, name, onClose }: { life: Life; name: string; onClose: () => void }) {
  const [life] = useState(now);
  const [boards, setBoards] = useState('1');
  const [which, setWhich] = useState('');
  const prove = useProve(life.id);
  const say = useSay();
  return (
    <Dialog open title={`${name} worked on a board`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          prove.mutate(
            { version: life.version, body: { boards: Number(boards), which } },
            {
              onSuccess: () => {
                say(`${name}: the proof is noted.`);
                onClose();
              },
            },
          );
        }}
      >
        <Field label="Boards" type="number" min={1} max={1000000} required value={boards} onChange={(e) => setBoards(e.target.value)} />
        <Field
          label="Which"
          hint="Name, revision, lot: “tide gauge C, lot 3”"
          required
          maxLength={500}
          value={which}
          onChange={(e) => setWhich(e.target.value)}
        />
        <Trouble error={prove.error} />
        <Button look="act" type="submit" disabled={prove.isPending}>
          Note it
        </Button>
      </form>
    </Dialog>
  );
}
