import type { BOM } from './queries';

const fill: Record<string, string> = {
  linked: 'bg-moss',
  proposed: 'bg-amber',
  several: 'bg-amber/60',
  'not in the library': 'bg-rust',
  'no library part': 'bg-moss/50',
  'sub-assembly': 'bg-line/60',
  'another BOM': 'bg-moss/75',
  'not fitted': 'bg-line',
};

/** How far the lines are settled, as a bar that fills; the same in words for those who hear it. */
export function VerdictBar({ bom }: { bom: BOM }) {
  const settled = ['linked', 'no library part', 'sub-assembly', 'another BOM', 'not fitted'].reduce((n, v) => n + (bom.counts[v] ?? 0), 0);
  if (bom.lines.length === 0) return null;
  return (
    <div className="flex items-center gap-3 px-4 pt-2 text-xs text-soft">
      <div className="flex h-2 flex-1 overflow-hidden rounded-sm bg-tint" aria-hidden="true">
        {Object.keys(fill).map((v) => (
          <div key={v} className={fill[v]} style={{ width: `${String((100 * (bom.counts[v] ?? 0)) / bom.lines.length)}%` }} />
        ))}
      </div>
      <span>
        {settled} of {bom.lines.length} settled
      </span>
    </div>
  );
}
