import { useState, type ReactNode } from 'react';
import { Button } from '../../ui/kit';
import type { Facet, Looking } from './lookup';

/** How many values a facet shows before it is opened. */
const few = 7;

/** The facets of what is looked at. Each counts under all filters but its own; several values of one may be chosen. */
export function Facets({
  looking,
  facets,
  drawers,
  label,
  onToggle,
  children,
}: {
  looking: Pick<Looking, 'filters'>;
  facets: Facet[];
  drawers: Record<string, number>;
  label: (drawer: string) => string;
  onToggle: (key: string, value: string) => void;
  /** Filters of another make, behind the drawers. */
  children?: ReactNode;
}) {
  const chosen = (key: string) => looking.filters[key] ?? [];
  const keys = [...new Set([...Object.keys(drawers), ...chosen('drawer')])].sort((a, b) => label(a).localeCompare(label(b)));
  return (
    <>
      <Group
        title="Drawer"
        values={keys.map((k) => ({ value: k, text: label(k), parts: drawers[k] ?? 0 }))}
        chosen={chosen('drawer')}
        onToggle={(v) => onToggle('drawer', v)}
      />
      {children}
      {facets.map((f) => (
        <ParameterFacet key={f.key} facet={f} chosen={chosen(f.key)} onToggle={(v) => onToggle(f.key, v)} />
      ))}
    </>
  );
}

function ParameterFacet({ facet, chosen, onToggle }: { facet: Facet; chosen: string[]; onToggle: (v: string) => void }) {
  const steps = facet.steps.map((s) => ({ value: s.range, text: s.label, parts: s.parts }));
  const values = facet.values.map((v) => ({ value: v.value, text: v.value, parts: v.parts }));
  const blank = facet.blank > 0 ? [{ value: '-', text: facet.key === 'missing' ? 'nothing' : 'blank', parts: facet.blank }] : [];
  const gone = chosen
    .filter((c) => ![...steps, ...values, ...blank].some((v) => v.value === c))
    .map((c) => ({ value: c, text: c, parts: 0 }));
  return (
    <Group
      title={facet.label}
      values={[...(steps.length ? steps : values), ...gone, ...blank]}
      single={steps.length ? values : undefined}
      more={facet.more}
      chosen={chosen}
      onToggle={onToggle}
    />
  );
}

interface Value {
  value: string;
  text: string;
  parts: number;
}

function Group({
  title,
  values,
  single,
  more = 0,
  chosen,
  onToggle,
}: {
  title: string;
  values: Value[];
  /** Where values are put together in ranges: the values themselves, shown when opened. */
  single?: Value[];
  more?: number;
  chosen: string[];
  onToggle: (v: string) => void;
}) {
  const [open, setOpen] = useState(false);
  const all = open && single ? [...values, ...single.filter((s) => !values.some((v) => v.value === s.value))] : values;
  // What is chosen is always in sight.
  const shown = open ? all : [...all.slice(0, few), ...all.slice(few).filter((v) => chosen.includes(v.value))];
  if (values.length === 0) return null;
  return (
    <fieldset className="mb-3">
      <legend className="mb-1 text-xs font-semibold text-soft">{title}</legend>
      {shown.map((v) => (
        <label key={v.value} className="flex min-h-6 cursor-pointer items-center gap-2 rounded px-1 hover:bg-sheet">
          <input type="checkbox" checked={chosen.includes(v.value)} onChange={() => onToggle(v.value)} />
          <span className={`min-w-0 flex-1 truncate ${v.value === '-' ? 'text-soft italic' : ''}`} title={v.text}>
            {v.text}
          </span>
          <span className="text-xs text-soft">{v.parts.toLocaleString('en')}</span>
        </label>
      ))}
      {(all.length > few || single) && (
        <Button look="quiet" className="min-h-6 px-1 py-0 text-xs" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'fewer' : single ? 'single values' : `${all.length - shown.length} more`}
        </Button>
      )}
      {open && more > 0 && <p className="px-1 text-xs text-soft">{more} rarer values: type one in the search box.</p>}
    </fieldset>
  );
}
