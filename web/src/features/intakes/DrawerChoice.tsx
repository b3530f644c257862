import { useCabinet } from '../cabinet/queries';
import { Choose } from '../../ui/choose';
import { Select } from '../../ui/kit';

/** Puts something into a drawer that holds parts, at once. */
export function PutInto({ label, onChoose }: { label: string; onChoose: (drawer: string) => void }) {
  const cabinet = useCabinet();
  const drawers = cabinet.data?.drawers.filter((d) => d.leaf) ?? [];
  return (
    <Choose label={label} text="Put into a drawer…" onChoose={onChoose} options={drawers.map((d) => ({ value: d.key, text: d.label }))} />
  );
}

/** A drawer that holds parts, as one field of a form. */
export function DrawerField({ label, value, onChoose }: { label: string; value: string; onChoose: (drawer: string) => void }) {
  const cabinet = useCabinet();
  return (
    <Select label={label} value={value} onChange={(e) => onChoose(e.target.value)}>
      <option value="">choose…</option>
      {cabinet.data?.drawers
        .filter((d) => d.leaf)
        .map((d) => (
          <option key={d.key} value={d.key}>
            {d.label}
          </option>
        ))}
    </Select>
  );
}
