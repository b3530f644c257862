const forms = [
  { form: 'lines', text: 'Completed' },
  { form: 'written', text: 'In the layout it came in' },
  { form: 'purchase', text: 'For purchasing' },
  { form: 'assembly', text: 'For assembly' },
  { form: 'numbers', text: 'Numbers for the drawing' },
];

/** What a menu of a BOM's sheets offers; a revision is not kept in the layout of its file. */
export function sheets(bom: string, at: { revision?: number; boards?: number; variant?: string }, which?: string[]) {
  return forms
    .filter(({ form }) => (which ? which.includes(form) : !at.revision || !['lines', 'written'].includes(form)))
    .flatMap(({ form, text }) =>
      ['xlsx', 'csv'].map((format) => ({
        text: `${text}, ${format.toUpperCase()}`,
        onSelect: () => {
          const q = new URLSearchParams({ form, format });
          if (at.revision) q.set('revision', String(at.revision));
          if (at.boards) q.set('boards', String(at.boards));
          if (at.variant) q.set('variant', at.variant);
          location.assign(`/api/v1/boms/${encodeURIComponent(bom)}/export?${q.toString()}`);
        },
      })),
    );
}
