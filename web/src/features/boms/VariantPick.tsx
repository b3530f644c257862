import { useSearchParams } from 'react-router';
import { Select } from '../../ui/kit';

/** Which variant of a board is shown; it stands in the address. Nothing where a board has none. */
export function VariantPick({
  variants,
  label = 'Variant',
  all,
  at = 'variant',
}: {
  variants: string[];
  label?: string;
  all: string;
  at?: string;
}) {
  const [params, setParams] = useSearchParams();
  if (variants.length === 0) return null;
  return (
    <div className="w-60">
      <Select
        label={label}
        value={params.get(at) ?? ''}
        onChange={(e) =>
          setParams((p) => {
            if (e.target.value) p.set(at, e.target.value);
            else p.delete(at);
            return p;
          })
        }
      >
        <option value="">{all}</option>
        {variants.map((v) => (
          <option key={v} value={v}>
            {v}
          </option>
        ))}
      </Select>
    </div>
  );
}
