import { useState } from 'react';
import { Button, Dialog, Field, Select, Trouble } from '../../ui/kit';
import { ScrollList } from '../../ui/scroll';
import { Confirm } from './ChangeDialog';
import { useTryPatterns, type Cabinet, type Drawer } from './queries';

type Written = Cabinet['document']['drawers'][number];

const list = (text: string) => text.split(',').map((x) => x.trim()).filter(Boolean); // prettier-ignore

/** Edits what a drawer itself says; what it inherits is changed where it comes from. The document is what is saved. */
export function EditDrawer({ cabinet, drawer, onClose }: { cabinet: Cabinet; drawer: Drawer; onClose: () => void }) {
  const at = cabinet.document.drawers.findIndex((d) => d.key === drawer.key);
  const [d, setD] = useState<Written>(() => structuredClone(cabinet.document.drawers[at] ?? { key: drawer.key, label: drawer.label }));
  const [adding, setAdding] = useState('');
  const tried = useTryPatterns(drawer.key);
  const put = (change: Partial<Written>) => setD({ ...d, ...change });
  const uses = d.parameters ?? [];
  const document = { ...cabinet.document, drawers: cabinet.document.drawers.map((x, i) => (i === at ? d : x)) };
  const changed = JSON.stringify(d) !== JSON.stringify(cabinet.document.drawers[at]);
  const name = (k: string) => cabinet.document.parameters.find((p) => p.key === k)?.label ?? k;
  return (
    <Dialog title={`Edit the drawer ${drawer.label}`} open onClose={onClose} wide>
      <Confirm
        change={changed ? { text: JSON.stringify(document), note: `edited the drawer ${drawer.key}` } : undefined}
        said="Saved:"
        onDone={onClose}
      >
        <div className="grid gap-3 sm:grid-cols-3">
          <Field label="Label" value={d.label} onChange={(e) => put({ label: e.target.value })} />
          <Field
            label="Number prefix"
            value={d.prefix ?? ''}
            placeholder={drawer.prefix}
            onChange={(e) => put({ prefix: e.target.value || undefined })}
          />
          <Field
            label="Designator letter"
            value={d.designator ?? ''}
            placeholder={drawer.designator}
            onChange={(e) => put({ designator: e.target.value || undefined })}
          />
          <Select label="Leading parameter" value={d.leading ?? ''} onChange={(e) => put({ leading: e.target.value || undefined })}>
            <option value="">{drawer.leading ? `inherited: ${name(drawer.leading)}` : 'none'}</option>
            {[...new Set([...drawer.slots.map((s) => s.key), ...uses.map((u) => u.key)])].map((k) => (
              <option key={k} value={k}>
                {name(k)}
              </option>
            ))}
          </Select>
          <Field label="Search words" value={(d.search ?? []).join(', ')} onChange={(e) => put({ search: list(e.target.value) })} />
          <Field
            label="Columns shown first"
            value={(d.columns ?? []).join(', ')}
            placeholder={drawer.columns.join(', ')}
            onChange={(e) => put({ columns: list(e.target.value) })}
          />
          <Field
            label="Identified by"
            value={(d.identity ?? []).join(', ')}
            placeholder={drawer.identity.join(', ')}
            onChange={(e) => put({ identity: list(e.target.value) })}
            hint="Two parts equal in these are a likely duplicate"
          />
          <Field
            label="Shown on a drawing"
            value={(d.drawing ?? []).join(', ')}
            placeholder={drawer.drawing.join(', ')}
            onChange={(e) => put({ drawing: list(e.target.value) })}
          />
          <Field
            label="A designer may change there"
            value={(d.designer ?? []).join(', ')}
            placeholder={drawer.designer.join(', ')}
            onChange={(e) => put({ designer: list(e.target.value) })}
          />
        </div>
        <div className="space-y-2">
          <Field
            label="Description pattern"
            className="font-mono"
            value={d.description ?? ''}
            placeholder={drawer.description}
            onChange={(e) => put({ description: e.target.value || undefined })}
            hint="{key} a value, {key in mm} in a unit, {key as marking}; [ ] vanishes when nothing in it has a value"
          />
          <Field
            label="Name rule"
            className="font-mono"
            value={d.name ?? ''}
            placeholder={drawer.name}
            onChange={(e) => put({ name: e.target.value || undefined })}
            hint="As above, and {@mpn}, {@manufacturer}"
          />
          <Button onClick={() => tried.mutate({ description: d.description, name: d.name })}>Try on real parts</Button>
          <Trouble error={tried.error} />
          {tried.data && (
            <ScrollList className="max-h-32 text-sm">
              {tried.data.length === 0 && <li className="text-soft">No part is in this drawer yet.</li>}
              {tried.data.map((p) => (
                <li key={p.number}>
                  <span className="text-soft">{p.number}</span> <strong>{p.name}</strong> {p.description}
                </li>
              ))}
            </ScrollList>
          )}
        </div>
        <table className="w-full text-sm">
          <thead>
            <tr className="text-left text-xs text-soft">
              <th className="py-1">Parameter that this drawer adds or narrows</th>
              <th>Required</th>
              <th>By hand</th>
              <th>Default</th>
              <th>Choices</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {uses.map((u, i) => {
              const set = (change: Partial<typeof u>) => put({ parameters: uses.map((x, k) => (k === i ? { ...x, ...change } : x)) });
              const box = 'min-h-6 w-full rounded border border-line bg-sheet px-1';
              return (
                <tr key={u.key} className="border-t border-line/60">
                  <th scope="row" className="py-1 pr-2 text-left font-medium">
                    {name(u.key)}
                  </th>
                  <td>
                    <input
                      type="checkbox"
                      aria-label={`${name(u.key)} is required`}
                      checked={u.required ?? false}
                      onChange={(e) => set({ required: e.target.checked || undefined })}
                    />
                  </td>
                  <td>
                    <input
                      type="checkbox"
                      aria-label={`${name(u.key)} is filled by hand`}
                      checked={u.byHand ?? false}
                      onChange={(e) => set({ byHand: e.target.checked || undefined })}
                    />
                  </td>
                  <td className="pr-2">
                    <input
                      aria-label={`Default of ${name(u.key)}`}
                      className={box}
                      value={u.default ?? ''}
                      onChange={(e) => set({ default: e.target.value || undefined })}
                    />
                  </td>
                  <td className="pr-2">
                    <input
                      aria-label={`Choices of ${name(u.key)}`}
                      className={box}
                      value={(u.choices ?? []).join(', ')}
                      onChange={(e) => set({ choices: list(e.target.value).length ? list(e.target.value) : undefined })}
                    />
                  </td>
                  <td>
                    <button
                      type="button"
                      aria-label={`Take ${name(u.key)} out`}
                      className="min-h-6 rounded px-1.5 hover:bg-tint"
                      onClick={() => put({ parameters: uses.filter((_, k) => k !== i) })}
                    >
                      ✕
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        <Select
          label="Add a parameter"
          value={adding}
          onChange={(e) => {
            if (e.target.value) put({ parameters: [...uses, { key: e.target.value }] });
            setAdding('');
          }}
        >
          <option value="">choose from the dictionary…</option>
          {cabinet.document.parameters
            .filter((p) => !uses.some((u) => u.key === p.key))
            .map((p) => (
              <option key={p.key} value={p.key}>
                {p.label}
              </option>
            ))}
        </Select>
      </Confirm>
    </Dialog>
  );
}
