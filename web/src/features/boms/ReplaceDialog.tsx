import { useState } from 'react';
import { Button, Dialog, Field, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useReplacement, useReplacePart } from './queries';

/** Puts a part in another's place on boards: what that does is shown first, board by board. */
export function ReplaceDialog({ part, with: first, onClose }: { part: string; with: string; onClose: () => void }) {
  const [typed, setTyped] = useState(first);
  const [other, setOther] = useState(first);
  const [left, setLeft] = useState<string[]>([]); // boards that are left as they are
  const [reason, setReason] = useState('');
  const seen = useReplacement(part, other);
  const replace = useReplacePart();
  const say = useSay();
  const r = other ? seen.data : undefined;
  const boards = (r?.boards ?? []).filter((b) => !left.includes(b.bom)).map((b) => b.bom);
  const some = useReplacement(part, left.length > 0 ? other : '', boards);
  const digest = left.length > 0 ? some.data?.digest : r?.digest;
  return (
    <Dialog open wide title={`Another part in the place of ${part}`} onClose={onClose}>
      <form
        className="space-y-3 text-sm"
        onSubmit={(e) => {
          e.preventDefault();
          if (!r || typed.trim() !== other) {
            setOther(typed.trim());
            return;
          }
          if (!digest) return;
          replace.mutate(
            { part, with: other, boms: left.length > 0 ? boards : undefined, reason, digest },
            {
              onSuccess: (done) => {
                say(
                  `${done.to.number} is in the place of ${part} on ${String(done.boards.length)} ${done.boards.length === 1 ? 'board' : 'boards'}.`,
                );
                onClose();
              },
            },
          );
        }}
      >
        <div className="flex items-end gap-3">
          <div className="w-56">
            <Field label="The part that takes its place" value={typed} onChange={(e) => setTyped(e.target.value)} maxLength={200} />
          </div>
          {(typed.trim() !== other || !other) && (
            <Button type="submit" disabled={!typed.trim()}>
              Show what that does
            </Button>
          )}
          {r && typed.trim() === other && <span className="py-1.5">{r.to.description}</span>}
        </div>
        <Trouble error={other ? seen.error : undefined} />
        {r && typed.trim() === other && (
          <>
            {r.differs.length > 0 && <p className="text-rust">It is otherwise in what matters: {r.differs.join('; ')}.</p>}
            {r.boards.length === 0 && <p>No board takes {part} now.</p>}
            {r.boards.length > 0 && (
              <table className="w-full">
                <thead>
                  <tr className="text-left text-xs text-soft">
                    <th className="py-1 pr-3">Board</th>
                    <th className="pr-3">Designators</th>
                    <th>Its lines say otherwise</th>
                  </tr>
                </thead>
                <tbody>
                  {r.boards.map((b) => (
                    <tr key={b.bom} className="border-t border-line/60">
                      <td className="py-1 pr-3">
                        <label className="flex items-center gap-2">
                          <input
                            type="checkbox"
                            checked={!left.includes(b.bom)}
                            onChange={(e) => setLeft(e.target.checked ? left.filter((x) => x !== b.bom) : [...left, b.bom])}
                          />
                          {b.name}
                        </label>
                      </td>
                      <td className="max-w-72 pr-3 font-mono text-xs break-words">{b.designators.join(', ')}</td>
                      <td className="max-w-72 break-words">{b.against.join('; ')}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            )}
            <Field
              label="Why"
              required
              value={reason}
              onChange={(e) => setReason(e.target.value)}
              maxLength={500}
              hint="Kept with each line; each can be taken back on its line."
            />
            <Trouble error={replace.error ?? some.error} />
            <Button look="act" type="submit" disabled={replace.isPending || boards.length === 0 || !digest || !reason.trim()}>
              Replace on {boards.length === 1 ? '1 board' : `${String(boards.length)} boards`}
            </Button>
          </>
        )}
      </form>
    </Dialog>
  );
}
