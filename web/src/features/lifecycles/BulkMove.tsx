import { useEffect, useState } from 'react';
import { type Schemas } from '../../api/client';
import { Button, Chip, Dialog, Field, Select, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useLifecycles, useMove, usePreviewMoves } from './queries';

/** What a lifecycle calls its moves; the same key in several lifecycles is one choice. */
function useMoves(of: string) {
  const all = useLifecycles();
  const moves = new Map<string, { label: string; to: string }>();
  for (const l of all.data?.items ?? [])
    if (l.of === of) for (const m of l.document.moves) if (!moves.has(m.key)) moves.set(m.key, { label: m.label, to: m.to });
  return [...moves];
}

interface Props {
  things: Schemas['PartBase'][];
  /** The state that is proposed, and the note that says why: both can be changed before anything is done. */
  to?: string;
  said?: string;
  onClose: () => void;
  onDone: () => void;
}

/** Moves several things: first what can be moved, and what keeps the others from it, by cause; then one deed with one note. */
export function BulkMove({ things: seen, to, said = '', onClose, onDone }: Props) {
  const [things] = useState(seen); // what was looked at
  const [chosen, setMove] = useState<string>();
  const [note, setNote] = useState(said);
  const moves = useMoves('parts');
  const move = chosen ?? moves.find(([, m]) => to !== undefined && m.to === to)?.[0] ?? 'release';
  const preview = usePreviewMoves();
  const send = useMove();
  const say = useSay();
  const look = preview.mutate;
  useEffect(() => look({ move, things }), [look, move, things]);
  const p = preview.data;
  const label = moves.find(([k]) => k === move)?.[1].label ?? 'Release';
  return (
    <Dialog wide open title={`Move ${things.length === 1 ? 'one part' : `${things.length} parts`} on`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate(
            { move, note, things, skip: true },
            {
              onSuccess: (r) => {
                say(
                  `${label}: ${r.things === 1 ? '1 part' : `${r.things} parts`}${r.left > 0 ? `; ${r.left} were left as they are` : ''}.`,
                );
                onDone();
                onClose();
              },
            },
          );
        }}
      >
        <Select label="Move" value={move} onChange={(e) => setMove(e.target.value)}>
          {moves.map(([key, m]) => (
            <option key={key} value={key}>
              {m.label}
            </option>
          ))}
        </Select>
        <Trouble error={preview.error} />
        <div role="status" className="space-y-2 text-sm">
          {p && (
            <p>
              <Chip tone={p.things > 0 ? 'good' : 'calm'}>{p.things === 1 ? '1 can be moved' : `${p.things} can be moved`}</Chip>{' '}
              {p.waived > 0 && <span className="text-soft">{p.waived} of them by a waiver</span>}
            </p>
          )}
          {p && p.cannot.length > 0 && (
            <table className="w-full text-sm">
              <thead>
                <tr className="text-left text-xs text-soft">
                  <th className="py-1 pr-3 text-right">Parts</th>
                  <th className="pr-3">What keeps them</th>
                  <th>Which</th>
                </tr>
              </thead>
              <tbody>
                {p.cannot.map((c) => (
                  <tr key={c.cause} className="border-t border-line/60 align-top">
                    <td className="py-1 pr-3 text-right font-semibold">{c.count}</td>
                    <td className="pr-3">
                      {c.what}
                      {c.mend && <span className="text-soft">: {c.mend}</span>}
                    </td>
                    <td className="text-xs text-soft">
                      {c.things.slice(0, 6).join(', ')}
                      {c.count > 6 && ' …'}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </div>
        <Field label="Note" required={p?.note} maxLength={2000} value={note} onChange={(e) => setNote(e.target.value)} />
        <Trouble error={send.error} />
        <Button look="act" type="submit" disabled={send.isPending || preview.isPending || !p || p.things === 0}>
          {label}: {p?.things ?? 0} {p?.things === 1 ? 'part' : 'parts'}
        </Button>
      </form>
    </Dialog>
  );
}
