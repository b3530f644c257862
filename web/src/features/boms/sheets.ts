import type { Schemas } from '../../api/client';

const forms = [
  { form: 'lines', text: 'Completed' },
  { form: 'written', text: 'In the layout it came in' },
  { form: 'purchase', text: 'For purchasing' },
  { form: 'assembly', text: 'For assembly' },
  { form: 'numbers', text: 'Numbers for the drawing' },
];

/** What a menu of a BOM's sheets offers, the usual ones and the house's own; a revision is not kept in the layout of its file. */
export function sheets(
  bom: string,
  at: { revision?: number; boards?: number; variant?: string },
  own: Schemas['SheetForm'][] = [],
  which?: string[],
) {
  return [...forms.map((f) => ({ ...f, of: f.form })), ...own.map(({ name, of }) => ({ form: name, text: name, of }))]
    .filter(({ of }) => !which || which.includes(of))
    .flatMap(({ form, text, of }) =>
      (form === of ? formats(form, at.revision) : of === 'lines' && at.revision ? [] : ['xlsx', 'csv', 'pdf']).map((format) => ({
        form,
        text,
        format,
      })),
    )
    .map(({ form, text, format }) => ({
      text: `${text}, ${names[format] ?? format.toUpperCase()}`,
      onSelect: () => {
        const q = new URLSearchParams({ form, format });
        if (at.revision) q.set('revision', String(at.revision));
        if (at.boards) q.set('boards', String(at.boards));
        if (at.variant) q.set('variant', at.variant);
        location.assign(`/api/v1/boms/${encodeURIComponent(bom)}/export?${q.toString()}`);
      },
    }));
}

const names: Partial<Record<string, string>> = { pdf: 'PDF', xml: 'IPC-2581' };

/** A revision is not kept in the layout of its file, and what it was completed with is what the other sheets have. */
function formats(form: string, revision?: number) {
  if (revision && form === 'written') return [];
  if (form === 'lines') return revision ? ['pdf', 'xml'] : ['xlsx', 'csv', 'pdf', 'xml'];
  return form === 'written' ? ['xlsx', 'csv'] : ['xlsx', 'csv', 'pdf'];
}
