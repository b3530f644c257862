import { useState } from 'react';
import { Button, Dialog, State, TextArea, Trouble } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { useApplySeverities, useSeverities } from './queries';

/** How bad the house takes the findings of its BOMs: the document, beside all causes there are. */
export function SeveritiesDialog({ mayApply, onClose }: { mayApply: boolean; onClose: () => void }) {
  const asked = useSeverities();
  const apply = useApplySeverities();
  const [text, setText] = useState<string>();
  const say = useSay();
  const s = asked.data;
  return (
    <Dialog open wide title="How bad findings are" onClose={onClose}>
      <Trouble error={asked.error} />
      {s && (
        <form
          className="grid gap-4 lg:grid-cols-2"
          onSubmit={(e) => {
            e.preventDefault();
            apply.mutate(
              { version: s.version, text: text ?? s.text },
              {
                onSuccess: () => {
                  say('Findings are as bad as the document says, in every BOM and for every check.');
                  onClose();
                },
              },
            );
          }}
        >
          <div className="space-y-3">
            <p className="text-sm">
              A cause that the document does not name is as bad as beside it; “off” is not heard of. fail says from which severity on a
              check on a build server fails.
            </p>
            <TextArea
              label="Document"
              rows={18}
              spellCheck={false}
              readOnly={!mayApply}
              value={text ?? s.text}
              onChange={(e) => setText(e.target.value)}
            />
            <Trouble error={apply.error} />
            {mayApply && (
              <Button look="act" type="submit" disabled={apply.isPending || text === undefined || text === s.text}>
                Put it in force
              </Button>
            )}
          </div>
          <table className="w-full self-start text-sm">
            <caption className="pb-1 text-left text-xs text-soft">Every cause, as bad as it is where the house says nothing</caption>
            <tbody>
              {Object.entries(s.usual)
                .sort()
                .map(([cause, severity]) => (
                  <tr key={cause} className="border-t border-line/60">
                    <th scope="row" className="py-0.5 pr-3 text-left font-mono text-xs font-normal">
                      {cause}
                    </th>
                    <td>
                      <State of={severity} />
                    </td>
                  </tr>
                ))}
            </tbody>
          </table>
        </form>
      )}
    </Dialog>
  );
}
