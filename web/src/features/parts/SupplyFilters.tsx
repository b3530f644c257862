import { useState } from 'react';
import type { Looking } from './lookup';

/** Ends of what suppliers offer that a person types: the key, and whether it is the least or the most that will do. */
const ends = [
  { key: 'offer.stock', label: 'In stock at least', least: true },
  { key: 'offer.price', label: 'Price at most', least: false },
  { key: 'offer.lead', label: 'Lead time at most (days)', least: false },
];

const typed = (values: string[] | undefined, least: boolean) => {
  const range = values?.find((v) => v.includes('..'));
  if (!range) return '';
  const [from = '', to = ''] = range.split('..');
  return (least ? from : to).trim();
};

/** What suppliers offer of the parts that are looked at: typed numbers, taken when Enter is pressed or the field is left. */
export function SupplyFilters({ looking, onChange }: { looking: Looking; onChange: (change: Partial<Looking>) => void }) {
  // Closed, it leaves the room to what parts are; what is chosen stays in sight.
  const asked = ends.some((e) => looking.filters[e.key] !== undefined) || looking.pieces !== 100;
  return (
    <details className="mb-3 space-y-1" open={asked}>
      <summary className="mb-1 cursor-pointer text-xs font-semibold text-soft">On offer</summary>
      {ends.map((e) => (
        <End
          key={`${e.key} ${typed(looking.filters[e.key], e.least)}`}
          label={e.label}
          was={typed(looking.filters[e.key], e.least)}
          onTake={(v) => {
            const others = Object.fromEntries(Object.entries(looking.filters).filter(([k]) => k !== e.key));
            onChange({ filters: v === '' ? others : { ...others, [e.key]: [e.least ? `${v}..` : `..${v}`] } });
          }}
        />
      ))}
      <End
        key={`pieces ${looking.pieces}`}
        label="Prices are of (pieces)"
        was={String(looking.pieces)}
        onTake={(v) => onChange({ pieces: Math.min(1_000_000_000, Math.max(1, Math.floor(Number(v)) || 100)) })}
      />
    </details>
  );
}

function End({ label, was, onTake }: { label: string; was: string; onTake: (v: string) => void }) {
  const [text, setText] = useState(was);
  const take = () => {
    const v = text.trim().replace(',', '.');
    if (v !== was && (v === '' || /^\d+(\.\d+)?$/.test(v))) onTake(v);
    else if (v !== was) setText(was);
  };
  return (
    <label className="flex min-h-6 items-center gap-2 px-1">
      <span className="min-w-0 flex-1">{label}</span>
      <input
        className="min-h-6 w-16 rounded border border-line bg-sheet px-1 text-right"
        inputMode="decimal"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={take}
        onKeyDown={(e) => {
          if (e.key === 'Enter') take();
        }}
      />
    </label>
  );
}
