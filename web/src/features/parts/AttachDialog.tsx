import { useState } from 'react';
import { Button, Chip, Dialog, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { cameFrom, ReadPanel, type Read } from './Reading';
import { asEdit, useSaveDraft, type Content, type Part } from './queries';

/** Gives a part another source: the two are laid side by side, and only missing values are taken over unless one says otherwise. */
export function AttachDialog({ part, content, onClose }: { part: Part; content: Content; onClose: () => void }) {
  const [read, setRead] = useState<Read>();
  const [taken, setTaken] = useState<Set<string>>(new Set());
  const [although, setAlthough] = useState(false);
  const save = useSaveDraft(part.number);
  const say = useSay();
  const attach = () => {
    if (!read) return;
    const edit = asEdit(content);
    const came = cameFrom(read);
    const values = { ...edit.values };
    for (const v of read.values) if (!v.problem && taken.has(v.key)) values[v.key] = v.value;
    save.mutate(
      {
        version: part.version,
        body: {
          ...edit,
          values,
          sources: [...(edit.sources ?? []), read.source],
          came: Object.fromEntries(Object.entries(came).filter(([k]) => taken.has(k))),
        },
      },
      {
        onSuccess: () => {
          say(`${read.source.mpn} is a source of ${part.number} now; the change is a draft.`);
          onClose();
        },
      },
    );
  };
  return (
    <Dialog open wide title={`Attach a source to ${part.number}`} onClose={onClose}>
      {!read ? (
        <ReadPanel
          beside={part.number}
          onRead={(r) => {
            setRead(r);
            setTaken(new Set(r.beside.filter((b) => b.state === 'missing').map((b) => b.key)));
          }}
        />
      ) : (
        <div className="space-y-3 text-sm">
          <p>
            <strong>
              {read.source.manufacturer} {read.source.mpn || 'no manufacturer part number'}
            </strong>{' '}
            {read.equal ? (
              <Chip tone="good">equal in what identifies the part</Chip>
            ) : (
              <Chip tone="bad">not equal: {read.differ.join('; ') || 'it is of another drawer'}</Chip>
            )}
            {read.same.length > 0 && <Chip tone="bad">{read.same.map((s) => s.number).join(', ')} has this MPN already</Chip>}
          </p>
          <table className="w-full">
            <thead>
              <tr className="border-b border-line text-left text-xs text-soft">
                <th className="py-1">Parameter</th>
                <th>{part.number}</th>
                <th>Offered</th>
                <th>Take over</th>
              </tr>
            </thead>
            <tbody>
              {read.beside.map((b) => (
                <tr key={b.key} className={`border-b border-line/60 ${b.state === 'differs' ? 'bg-amber-tint' : ''}`}>
                  <td className="py-0.5 text-soft">{b.label}</td>
                  <td>{b.have}</td>
                  <td className="font-semibold">{b.offer}</td>
                  <td>
                    {b.state === 'missing' || b.state === 'differs' ? (
                      <label className="flex items-center gap-1">
                        <input
                          type="checkbox"
                          checked={taken.has(b.key)}
                          onChange={() => {
                            const next = new Set(taken);
                            if (!next.delete(b.key)) next.add(b.key);
                            setTaken(next);
                          }}
                        />
                        {b.state}
                      </label>
                    ) : (
                      <span className="text-xs text-soft">{b.state}</span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {!read.equal && (
            <label className="flex gap-2 rounded bg-amber-tint p-2">
              <input type="checkbox" checked={although} onChange={(e) => setAlthough(e.target.checked)} />
              It is an alternate all the same.
            </label>
          )}
          <Trouble error={save.error} />
          <div className="flex gap-2">
            <Button look="act" disabled={!read.source.mpn || save.isPending || (!read.equal && !although)} onClick={attach}>
              Attach as a source and take over {taken.size} values
            </Button>
            <Button onClick={() => setRead(undefined)}>Another text</Button>
          </div>
        </div>
      )}
    </Dialog>
  ); // prettier-ignore
}
