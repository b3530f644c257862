import { Select } from '../../ui/kit';
import { useDrawers } from './queries';

/** Chooses a drawer that holds parts. */
export function DrawerChoice({
  label,
  value = '',
  shown,
  onChoose,
}: {
  label: string;
  value?: string;
  shown?: boolean;
  onChoose: (drawer: string) => void;
}) {
  const cabinet = useDrawers();
  return (
    <Select label={label} hideLabel={!shown} value={value} onChange={(e) => e.target.value && onChoose(e.target.value)}>
      <option value="">{shown ? 'choose…' : 'Put into a drawer…'}</option>
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
