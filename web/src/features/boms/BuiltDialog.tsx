import { useState } from 'react';
import { Button, Chip, Dialog, Empty, Field, Select, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useMay } from '../people';
import { useBuilt, useConfirmProof, useProof, type Frozen } from './queries';

/** Notes that boards of a revision were built and work. */
export function BuiltDialog({
  of,
  at,
  onClose,
  onProof,
}: {
  of: Frozen;
  at: string;
  onClose: () => void;
  onProof: (build: string) => void;
}) {
  const [boards, setBoards] = useState(of.build ? String(of.build) : '');
  const [which, setWhich] = useState('');
  const [variant, setVariant] = useState(of.variant ?? '');
  const built = useBuilt(at, of.revision);
  const say = useSay();
  const n = Number(boards);
  const wrong = boards !== '' && (!Number.isInteger(n) || n < 1 || n > 1_000_000);
  return (
    <Dialog open title={`Boards of ${of.name} revision ${of.revision} were built`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          built.mutate(
            { boards: n, which, variant: variant || undefined },
            {
              onSuccess: (f) => {
                say(`${n === 1 ? '1 board' : `${String(n)} boards`} of revision ${String(of.revision)} noted as built.`);
                const newest = f.builds[0];
                if (newest) onProof(newest.id);
              },
            },
          );
        }}
      >
        <p className="text-sm">
          What they were built of is proposed as proved next: the exact revisions of parts, symbols, land patterns, bodies and pin maps that
          this revision is pinned to.
        </p>
        <Field
          label="Boards that work"
          required
          inputMode="numeric"
          value={boards}
          error={wrong ? 'From 1 to 1,000,000' : undefined}
          onChange={(e) => setBoards(e.target.value.trim())}
        />
        <Field
          label="Which boards"
          required
          hint="Their lot, place or day"
          value={which}
          maxLength={300}
          onChange={(e) => setWhich(e.target.value)}
        />
        {(of.variants?.length ?? 0) > 0 && (
          <Select label="Variant" value={variant} onChange={(e) => setVariant(e.target.value)}>
            <option value="">choose one</option>
            {of.variants?.map((v) => (
              <option key={v} value={v}>
                {v}
              </option>
            ))}
          </Select>
        )}
        <Trouble error={built.error} />
        <Button
          look="act"
          type="submit"
          disabled={built.isPending || wrong || !boards || !which.trim() || ((of.variants?.length ?? 0) > 0 && !variant)}
        >
          Note it
        </Button>
      </form>
    </Dialog>
  );
}

/** What a build proposes as proved; confirmed all at once, or those that are ticked. */
export function ProofDialog({ at, revision, build, onClose }: { at: string; revision: number; build: string; onClose: () => void }) {
  const asked = useProof(at, revision, build);
  const confirm = useConfirmProof(at, revision, build);
  const [off, setOff] = useState<Set<string>>(new Set());
  const may = useMay();
  const say = useSay();
  const p = asked.data;
  const open = p?.items.filter((x) => !x.proved) ?? [];
  const chosen = open.filter((x) => !off.has(x.id));
  return (
    <Dialog open wide title="What these boards prove" onClose={onClose}>
      <Trouble error={asked.error ?? confirm.error} />
      {!p && !asked.error && <Empty title="One moment…" />}
      {p && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            confirm.mutate(chosen.length === open.length ? { all: true } : { things: chosen.map((x) => x.id) }, {
              onSuccess: () => {
                say(chosen.length === 1 ? '1 exact revision is proved.' : `${String(chosen.length)} exact revisions are proved.`);
                onClose();
              },
            });
          }}
        >
          <p className="mb-2 text-sm">
            {p.build.boards === 1 ? '1 board' : `${p.build.boards.toLocaleString('en')} boards`} of {p.bom} revision {p.revision}
            {p.build.variant && `, variant ${p.build.variant}`}: {p.build.which}. {p.items.length - open.length} of {p.items.length} exact
            revisions are confirmed.
          </p>
          <div className="mb-2">
            {may('thing.review') && open.length > 0 && (
              <Button look="act" type="submit" disabled={confirm.isPending || chosen.length === 0}>
                {chosen.length === 1 ? 'Confirm that 1 worked' : `Confirm that ${String(chosen.length)} worked`}
              </Button>
            )}
          </div>
          <div className="mb-3">
            <table className="w-full text-sm">
              <thead className="sticky top-0 bg-sheet">
                <tr className="text-left text-xs text-soft">
                  <th className="py-1 pr-2">Worked</th>
                  <th className="pr-3">What</th>
                  <th className="pr-3">Revision</th>
                  <th className="pr-3">Used</th>
                  <th className="pr-3 text-right">Boards so far</th>
                </tr>
              </thead>
              <tbody>
                {p.items.map((x) => (
                  <tr key={`${x.id} ${x.revision}`} className="border-t border-line/60">
                    <td className="py-1 pr-2">
                      {x.proved ? (
                        <Chip tone="good">confirmed</Chip>
                      ) : (
                        <input
                          type="checkbox"
                          aria-label={`${x.name} revision ${x.revision} worked`}
                          checked={!off.has(x.id)}
                          disabled={!may('thing.review')}
                          onChange={(e) => {
                            const next = new Set(off);
                            if (e.target.checked) next.delete(x.id);
                            else next.add(x.id);
                            setOff(next);
                          }}
                        />
                      )}
                    </td>
                    <td className="pr-3">
                      <span className="font-medium">{x.name}</span> <span className="text-soft">{x.says}</span>
                    </td>
                    <td className="pr-3 whitespace-nowrap">
                      {x.revision} {!x.newest && <Chip tone="open">not the newest</Chip>}
                    </td>
                    <td className="max-w-60 truncate pr-3" title={x.used.join(' ')}>
                      {x.used.join(' ')}
                    </td>
                    <td className="pr-3 text-right tabular-nums">{x.boards || ''}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </form>
      )}
    </Dialog>
  );
}
