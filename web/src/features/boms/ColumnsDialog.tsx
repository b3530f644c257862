import { useState } from 'react';
import { Button, Dialog, Field, Select, Trouble } from '../../ui/kit';
import type { BOM, ColumnRole } from './queries';

const roles: [string, string][] = [
  ['', 'not used'],
  ['designator', 'designators'],
  ['quantity', 'quantity'],
  ['number', 'our part number'],
  ['mpn', 'manufacturer part number'],
  ['manufacturer', 'manufacturer'],
  ['supplier', 'supplier'],
  ['supplierNumber', 'supplier number'],
  ['value', 'value'],
  ['package', 'package'],
  ['description', 'description'],
  ['fit', 'fitted: marks say which are'],
  ['notFitted', 'not fitted: marks say which are left off'],
  ['variants', 'variants: lists those that a line is in'],
  ['level', 'level: how deep in the structure it stands'],
  ['remark', 'remark'],
];

/** What may be of one variant of the board. */
const ofVariant = (role: string) => aboutFitting(role) || role === 'quantity';

const aboutFitting = (role: string) => role === 'fit' || role === 'notFitted';

/** What each column was taken for; said once for all files with the same headings. */
export function ColumnsDialog({
  bom,
  busy,
  error,
  onClose,
  onSay,
}: {
  bom: BOM;
  busy: boolean;
  error: unknown;
  onClose: () => void;
  onSay: (columns: ColumnRole[]) => void;
}) {
  const [changed, setChanged] = useState<Record<number, string>>({});
  const [blanks, setBlanks] = useState<Record<number, string>>({});
  const [of, setOf] = useState<Record<number, string>>({});
  const said = bom.columns.flatMap((c) => {
    const role = changed[c.at] ?? c.role;
    const blank = aboutFitting(role) ? (blanks[c.at] ?? c.blank ?? '') : '';
    const variant = ofVariant(role) ? (of[c.at] ?? c.variant ?? '').trim() : '';
    if (role === c.role && blank === (c.blank ?? '') && variant === (c.variant ?? '')) return [];
    return [{ at: c.at, role, param: c.param, blank: blank || undefined, variant: variant || undefined } as ColumnRole];
  });
  return (
    <Dialog open wide title="What the columns mean" onClose={onClose}>
      <p className="mb-2 text-sm">
        Cells of an identity or a fact are evidence for or against a record. What you say here holds for all files with these headings.
        {bom.confirmed && ` ${bom.confirmed} confirmed them as they stand.`}
      </p>
      <table className="mb-3 w-full text-sm">
        <thead>
          <tr className="text-left text-xs text-soft">
            <th className="py-1 pr-3">Heading</th>
            <th className="pr-3">Taken for</th>
            <th className="pr-3">Which is</th>
            <th>Because</th>
          </tr>
        </thead>
        <tbody>
          {bom.columns.map((c) => (
            <tr key={c.at} className="border-t border-line/60">
              <th scope="row" className="py-1 pr-3 text-left font-medium">
                {c.heading || `column ${c.at + 1}`}
              </th>
              <td className="pr-3">
                {c.role === 'fact' ? (
                  c.param
                ) : (
                  <Select
                    label={`What ${c.heading} is`}
                    hideLabel
                    value={changed[c.at] ?? c.role}
                    onChange={(e) => setChanged({ ...changed, [c.at]: e.target.value })}
                  >
                    {roles.map(([key, label]) => (
                      <option key={key} value={key}>
                        {label}
                      </option>
                    ))}
                  </Select>
                )}
                {ofVariant(changed[c.at] ?? c.role) &&
                  (c.variant !== undefined || (changed[c.at] ?? c.role) !== 'quantity' || c.role !== 'quantity') && (
                    <Field
                      label={`The variant that ${c.heading} is of`}
                      hideLabel
                      placeholder="of every variant"
                      value={of[c.at] ?? c.variant ?? ''}
                      maxLength={60}
                      onChange={(e) => setOf({ ...of, [c.at]: e.target.value })}
                    />
                  )}
                {aboutFitting(changed[c.at] ?? c.role) && (
                  <Select
                    label={`What an empty cell of ${c.heading} means`}
                    hideLabel
                    value={blanks[c.at] ?? c.blank ?? ''}
                    onChange={(e) => setBlanks({ ...blanks, [c.at]: e.target.value })}
                  >
                    <option value="">empty: as the other cells let it mean</option>
                    <option value="fitted">empty: fitted</option>
                    <option value="not fitted">empty: not fitted</option>
                  </Select>
                )}
              </td>
              <td className="pr-3">{c.meaning || 'not used'}</td>
              <td className="text-xs text-soft">{c.because}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Trouble error={error} />
      <Button look="act" disabled={busy} onClick={() => onSay(said)}>
        {said.length > 0 ? `Change ${said.length} and confirm the rest` : 'Confirm them as they are'}
      </Button>
    </Dialog>
  );
}
