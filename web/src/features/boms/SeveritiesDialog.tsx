import { State } from '../../ui/kit';
import { useSay } from '../../ui/toast';
import { HouseDocument } from './HouseDocument';
import { useApplySeverities, useSeverities } from './queries';

/** How bad the house takes the findings of its BOMs: the document, beside all causes there are. */
export function SeveritiesDialog({ mayApply, onClose }: { mayApply: boolean; onClose: () => void }) {
  const asked = useSeverities();
  const apply = useApplySeverities();
  const say = useSay();
  return (
    <HouseDocument
      title="How bad findings are"
      says="A cause that the document does not name is as bad as beside it; “off” is not heard of. fail says from which severity on a check on a build server fails."
      of={asked.data}
      trouble={asked.error}
      wrong={apply.error}
      busy={apply.isPending}
      mayApply={mayApply}
      onClose={onClose}
      onApply={(v) =>
        apply.mutate(v, {
          onSuccess: () => {
            say('Findings are as bad as the document says, in every BOM and for every check.');
            onClose();
          },
        })
      }
    >
      <table className="w-full self-start text-sm">
        <caption className="pb-1 text-left text-xs text-soft">Every cause, as bad as it is where the house says nothing</caption>
        <tbody>
          {Object.entries(asked.data?.usual ?? {})
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
    </HouseDocument>
  );
}
