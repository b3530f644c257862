import { useSay } from '../../ui/toast';
import { HouseDocument } from './HouseDocument';
import { useApplySheetForms, useSheetForms } from './queries';

/** The sheets of the house, which every BOM is exported in beside the usual ones: the document, beside what it has in force. */
export function SheetsDialog({ mayApply, onClose }: { mayApply: boolean; onClose: () => void }) {
  const asked = useSheetForms();
  const apply = useApplySheetForms();
  const say = useSay();
  const sheets = asked.data?.sheets ?? [];
  return (
    <HouseDocument
      title="Sheets of the house"
      says="Each is made of a usual sheet (lines, purchase, assembly or numbers): take names a column of that, head is what the house calls it, text stands in each row; sort orders the rows."
      of={asked.data}
      trouble={asked.error}
      wrong={apply.error}
      busy={apply.isPending}
      mayApply={mayApply}
      onClose={onClose}
      onApply={(v) =>
        apply.mutate(v, {
          onSuccess: (s) => {
            say(
              s.sheets.length === 1 ? 'Every BOM is exported as 1 sheet more.' : `Every BOM is exported as ${s.sheets.length} sheets more.`,
            );
            onClose();
          },
        })
      }
    >
      {sheets.length === 0 ? (
        <p className="text-sm text-soft">None yet. A sheet has a name, of, and columns, such as {'{take: MPN, head: Order code}'}.</p>
      ) : (
        <table className="w-full self-start text-sm">
          <caption className="pb-1 text-left text-xs text-soft">In force</caption>
          <tbody>
            {sheets.map((s) => (
              <tr key={s.name} className="border-t border-line/60">
                <th scope="row" className="py-0.5 pr-3 text-left font-medium">
                  {s.name}
                </th>
                <td>
                  {s.columns === 1 ? '1 column' : `${s.columns} columns`} of {s.of}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </HouseDocument>
  );
}
