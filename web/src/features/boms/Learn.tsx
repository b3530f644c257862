import { Select } from '../../ui/kit';
import type { Line } from './queries';

/** How far a choice goes: for other lines of this BOM, and for the next files of its origin. */
export type Far = { alike: boolean; learn: '' | 'propose' | 'link' };

/** What is said of how far a choice goes. */
export function LearnFields({
  line,
  origin,
  mayLink,
  far,
  onFar,
}: {
  line: Line;
  origin: string;
  mayLink: boolean;
  far: Far;
  onFar: (far: Far) => void;
}) {
  const others = line.alike ?? 0;
  return (
    <div className="mt-3 flex flex-wrap items-end gap-x-6 gap-y-2 text-sm">
      {others > 0 && (
        <label className="flex items-center gap-2 py-1">
          <input type="checkbox" checked={far.alike} onChange={(e) => onFar({ ...far, alike: e.target.checked })} />
          {others === 1
            ? 'also for the other open line that asks for the same'
            : `also for the ${String(others)} other open lines that ask for the same`}
        </label>
      )}
      <div className="w-[26rem] max-w-full">
        <Select
          label={
            origin
              ? `In the next files from ${origin} with these headings`
              : 'In the next files with these headings of which no origin is said'
          }
          value={far.learn}
          onChange={(e) => onFar({ ...far, learn: e.target.value as Far['learn'] })}
        >
          <option value="">nothing of this is kept</option>
          <option value="propose">such lines are proposed the part</option>
          {mayLink && <option value="link">such lines are linked, where a fact agrees and nothing speaks against it</option>}
        </Select>
      </div>
    </div>
  );
}
