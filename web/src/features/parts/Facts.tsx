import { Menu } from '../../ui/kit';
import type { Schemas } from '../../api/client';
import type { Looking } from './lookup';

type Fact = Schemas['LookupFact'];

/** How each fact of the question was read, with other readings to choose from, and the filters in force. */
export function Facts({
  looking,
  facts,
  label,
  onChange,
}: {
  looking: Looking;
  facts: Fact[];
  label: (key: string, value: string) => string;
  onChange: (change: Partial<Looking>) => void;
}) {
  const replace = (fact: Fact, by: string) => onChange({ q: looking.q.replace(fact.text, by).replace(/\s+/g, ' ').trim() || by });
  const chosen = Object.entries(looking.filters).flatMap(([key, vs]) => vs.map((v) => [key, v] as const));
  if (facts.length + chosen.length === 0) return null;
  return (
    <ul
      aria-label="How the question was read"
      className="flex flex-wrap items-center gap-1.5 border-b border-line bg-ground px-3 py-1.5 text-sm"
    >
      {facts.map((f, i) => (
        <li
          key={`${f.text}${i}`}
          className={`flex items-center gap-1 rounded border px-1.5 ${f.kind === 'skipped' ? 'border-amber bg-amber-tint' : 'border-line bg-sheet'}`}
        >
          <span className="font-mono text-xs">{f.text}</span>
          <span className="text-soft" aria-hidden="true">
            →
          </span>
          <span className="sr-only">read as</span>
          <span className="font-medium">{f.as}</span>
          {f.note && <span className="text-xs text-soft">({f.note})</span>}
          {f.options.length > 0 && (
            <Menu label="other readings" items={f.options.map((o) => ({ text: o.as, onSelect: () => replace(f, o.write) }))} />
          )}
          <button
            type="button"
            aria-label={`Leave out ${f.text}`}
            className="min-h-6 rounded px-1 hover:bg-tint"
            onClick={() =>
              onChange({
                q: facts
                  .filter((_, k) => k !== i)
                  .map((x) => x.text)
                  .join(' '),
              })
            }
          >
            ✕
          </button>
        </li>
      ))}
      {chosen.map(([key, v]) => (
        <li key={`${key}:${v}`} className="flex items-center gap-1 rounded border border-water bg-sheet px-1.5">
          <span aria-hidden="true">▽</span>
          {label(key, v)}
          <button
            type="button"
            aria-label={`Remove the filter ${label(key, v)}`}
            className="min-h-6 rounded px-1 hover:bg-tint"
            onClick={() => onChange({ filters: { ...looking.filters, [key]: (looking.filters[key] ?? []).filter((x) => x !== v) } })}
          >
            ✕
          </button>
        </li>
      ))}
    </ul>
  );
}

/** Where nothing fits: what leaving one fact out would give. */
export function NearMisses({ relax, onChoose }: { relax: Schemas['LookupRelaxation'][]; onChoose: (q: string) => void }) {
  if (relax.length === 0) return null;
  return (
    <ul className="mx-auto mt-3 max-w-xl space-y-1 text-left">
      {relax.map((r, i) => (
        <li key={i}>
          <button type="button" className="min-h-6 underline" onClick={() => onChoose(r.write)}>
            {r.parts.toLocaleString('en')} {r.parts === 1 ? 'part' : 'parts'} {r.as}
          </button>
        </li>
      ))}
    </ul>
  );
}
