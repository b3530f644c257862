import { useState } from 'react';
import { revisionName } from '../../ui/beside';
import { Button, Chip, Dialog, Field, State, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useDiff } from '../parts/queries';
import { Changes } from '../parts/Revisions';
import { unsettled, useAcceptFindings, useMoveOn, type BOM, type Line } from './queries';

/** Causes of lines that hold on to an older revision: they are moved on, or accepted. */
const heldBack = ['behind', 'pin-withdrawn'];

/** What is found of a record that is only proposed is settled with the line: the record is accepted with a reason, or another is chosen. */
const settled = (l: Line) => !unsettled(l);

/** The findings of a line: each is accepted with a reason, or settled where that is one step. */
export function LineFindings({ bom, line, mayEdit }: { bom: BOM; line: Line; mayEdit: boolean }) {
  const [accepting, setAccepting] = useState<string>();
  const accept = useAcceptFindings(bom);
  const moveOn = useMoveOn(bom);
  const busy = accept.isPending || moveOn.isPending;
  if (line.findings.length === 0) return null;
  const row = [line.row];
  return (
    <>
      <ul className="mb-3 space-y-1 text-sm">
        {line.findings.map((f) => (
          <li key={f.cause + f.what} className="flex flex-wrap items-baseline gap-x-2">
            <span className="min-w-60 flex-1">
              <State of={f.severity} /> {f.what}
              {f.mend && !f.waived && <span className="text-soft">: {f.mend}</span>}
              {f.waived && (
                <>
                  {' '}
                  <Chip tone="open">accepted</Chip> <span className="text-soft">{f.waived}</span>
                </>
              )}
            </span>
            {mayEdit && heldBack.includes(f.cause) && line.part && (
              <Button look="quiet" disabled={busy} onClick={() => line.part && moveOn.mutate([line.part.id])}>
                Move it on
              </Button>
            )}
            {mayEdit && f.waived && (
              <Button look="quiet" disabled={busy} onClick={() => accept.mutate({ cause: f.cause, rows: row, why: '' })}>
                Take it back
              </Button>
            )}
            {mayEdit && !f.waived && settled(line) && (
              <Button look="quiet" disabled={busy} onClick={() => setAccepting(f.cause)}>
                Accept…
              </Button>
            )}
          </li>
        ))}
      </ul>
      {line.held && line.part && <WhatDiffers part={line.part.id} from={line.held} to={line.part.revision} />}
      <Trouble error={accept.error ?? moveOn.error} />
      {accepting && <AcceptDialog bom={bom} cause={accepting} rows={row} onClose={() => setAccepting(undefined)} />}
    </>
  );
}

/** What became otherwise between the revision that a board holds on to and the one in use. */
function WhatDiffers({ part, from, to }: { part: string; from: number; to: number }) {
  const diff = useDiff(part, from, to, true);
  return (
    <div className="mb-3">
      <Trouble error={diff.error} />
      {diff.data && <Changes changes={diff.data.changes} from={revisionName(from)} to={revisionName(to)} />}
    </div>
  );
}

/** What may be done for all lines with one cause at once. */
export function CauseActions({ bom, cause }: { bom: BOM; cause: string }) {
  const [accepting, setAccepting] = useState(false);
  const moveOn = useMoveOn(bom);
  const say = useSay();
  const has = bom.lines.filter((l) => settled(l) && l.findings.some((f) => f.cause === cause && !f.waived));
  if (has.length === 0) return null;
  const lines = has.length === 1 ? '1 line' : `${String(has.length)} lines`;
  const parts = [...new Set(has.flatMap((l) => (l.held && l.part ? [l.part.id] : [])))];
  return (
    <span className="ml-auto flex flex-wrap gap-2">
      <Trouble error={moveOn.error} />
      {heldBack.includes(cause) && parts.length > 0 && (
        <Button
          look="quiet"
          disabled={moveOn.isPending}
          onClick={() =>
            moveOn.mutate(parts, {
              onSuccess: () => say(parts.length === 1 ? '1 part is moved on.' : `${String(parts.length)} parts are moved on.`),
            })
          }
        >
          Move {lines} on
        </Button>
      )}
      <Button look="quiet" onClick={() => setAccepting(true)}>
        Accept it in {lines}…
      </Button>
      {accepting && <AcceptDialog bom={bom} cause={cause} rows={has.map((l) => l.row)} onClose={() => setAccepting(false)} />}
    </span>
  );
}

/** Accepts findings with a reason. It names the version that was looked at. */
function AcceptDialog({ bom: now, cause, rows, onClose }: { bom: BOM; cause: string; rows: number[]; onClose: () => void }) {
  const [bom] = useState(now); // what was looked at
  const [why, setWhy] = useState('');
  const accept = useAcceptFindings(bom);
  const say = useSay();
  const example = bom.lines.find((l) => rows.includes(l.row))?.findings.find((f) => f.cause === cause);
  const lines = rows.length === 1 ? '1 line' : `${String(rows.length)} lines`;
  return (
    <Dialog open title={`Accept “${cause.replaceAll('-', ' ')}” in ${lines}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          accept.mutate(
            { cause, rows, why },
            {
              onSuccess: () => {
                say(`Accepted in ${lines}; each can be taken back.`);
                onClose();
              },
            },
          );
        }}
      >
        <p className="text-sm">
          {example?.what}. It stays visible with your name, and counts again as soon as the line, its record or what is found is another.
        </p>
        <Field label="Why it is as it should be" required maxLength={500} value={why} onChange={(e) => setWhy(e.target.value)} />
        <Trouble error={accept.error} />
        <Button look="act" type="submit" disabled={accept.isPending || !why.trim()}>
          Accept
        </Button>
      </form>
    </Dialog>
  );
}
