import { useState } from 'react';
import { Dialog, Field, Select } from '../../ui/kit';
import { Confirm } from './ChangeDialog';
import type { Cabinet, Drawer } from './queries';

/** Makes a key of a label: small letters, digits and dashes. */
const keyOf = (label: string) =>
  label
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^[^a-z]+|-+$/g, '');

/** A new parameter in the dictionary; drawers take it up afterwards. */
export function AddParameter({ cabinet, onClose }: { cabinet: Cabinet; onClose: () => void }) {
  const [v, setV] = useState({ label: '', key: '', type: 'measure', of: 'voltage', show: '', synonyms: '', choices: '' });
  const put = (key: string) => (e: { target: { value: string } }) => setV({ ...v, [key]: e.target.value });
  const list = (text: string) => text.split(',').map((x) => x.trim()).filter(Boolean); // prettier-ignore
  const key = v.key || keyOf(v.label);
  const made = {
    key,
    label: v.label,
    type: v.type,
    ...(v.type === 'measure' ? { of: v.of, show: v.show || undefined } : {}),
    ...(v.type === 'choice' ? { choices: list(v.choices) } : {}),
    synonyms: list(v.synonyms),
  };
  const document = { ...cabinet.document, parameters: [...cabinet.document.parameters, made] };
  const dimensions = [...new Set(cabinet.document.parameters.map((p) => p.of).filter((x) => x !== undefined))].sort();
  return (
    <Dialog title="Add a parameter to the dictionary" open onClose={onClose} wide>
      <Confirm
        change={v.label ? { text: JSON.stringify(document), note: `added the parameter ${key}` } : undefined}
        said="Added:"
        onDone={onClose}
      >
        <div className="grid gap-3 sm:grid-cols-3">
          <Field label="Label" required value={v.label} onChange={put('label')} />
          <Field label="Key" value={v.key} placeholder={key} onChange={put('key')} />
          <Select label="Type" value={v.type} onChange={put('type')}>
            {['measure', 'text', 'choice', 'number', 'yes-no', 'link', 'date'].map((t) => (
              <option key={t}>{t}</option>
            ))}
          </Select>
          {v.type === 'measure' && (
            <>
              <Select label="Of" value={v.of} onChange={put('of')}>
                {dimensions.map((d) => (
                  <option key={d}>{d}</option>
                ))}
              </Select>
              <Field label="Shown in" value={v.show} onChange={put('show')} hint="Blank: whichever prefix suits" />
            </>
          )}
          {v.type === 'choice' && <Field label="Choices, parted by commas" value={v.choices} onChange={put('choices')} />}
          <Field
            label="Synonyms, parted by commas"
            value={v.synonyms}
            onChange={put('synonyms')}
            hint="Names that suppliers and colleagues use"
          />
        </div>
      </Confirm>
    </Dialog>
  );
}

/** A new drawer inside another. */
export function AddDrawer({ cabinet, inside, onClose }: { cabinet: Cabinet; inside: Drawer; onClose: () => void }) {
  const [v, setV] = useState({ label: '', key: '', parent: inside.key, prefix: '', designator: '' });
  const put = (key: string) => (e: { target: { value: string } }) => setV({ ...v, [key]: e.target.value });
  const key = v.key || keyOf(v.label);
  const made = {
    key,
    label: v.label,
    parent: v.parent || undefined,
    prefix: v.prefix || undefined,
    designator: v.designator || undefined,
    ...(v.parent ? {} : { digits: 5 }),
  };
  const document = { ...cabinet.document, drawers: [...cabinet.document.drawers, made] };
  return (
    <Dialog title="Add a drawer" open onClose={onClose} wide>
      <Confirm
        change={v.label ? { text: JSON.stringify(document), note: `added the drawer ${key}` } : undefined}
        said="Added:"
        onDone={onClose}
      >
        <div className="grid gap-3 sm:grid-cols-3">
          <Field label="Label" required value={v.label} onChange={put('label')} />
          <Field label="Key" value={v.key} placeholder={key} onChange={put('key')} />
          <Select label="Lies in" value={v.parent} onChange={put('parent')}>
            <option value="">the cabinet itself</option>
            {cabinet.drawers.map((d) => (
              <option key={d.key} value={d.key}>
                {d.label}
              </option>
            ))}
          </Select>
          <Field label="Number prefix" value={v.prefix} onChange={put('prefix')} hint="Blank: that of the drawer it lies in" />
          <Field label="Designator letter" value={v.designator} onChange={put('designator')} />
        </div>
      </Confirm>
    </Dialog>
  );
}

/** Builds the descriptions and names of all parts of a drawer anew, also those that were written by hand. */
export function RebuildDescriptions({ drawer, onClose }: { drawer: Drawer; onClose: () => void }) {
  return (
    <Dialog title={`Build the descriptions of ${drawer.label} anew`} open onClose={onClose} wide>
      <Confirm change={{ steps: [{ do: 'redescribe', drawer: drawer.key }] }} said="Built:" onDone={onClose}>
        <p className="text-sm">
          Every part in the drawer and inside it gets the description and the name that the patterns build, also where somebody wrote
          another by hand.
        </p>
      </Confirm>
    </Dialog>
  );
}
