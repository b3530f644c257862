/** The address of a model's preview; the content's ID makes it one that never changes, and it is of one scale with what is beside it. */
export function preview(id: string, content?: string, small = false, beside = ''): string {
  const q = new URLSearchParams();
  if (content) q.set('content', content);
  if (beside) q.set('beside', beside);
  if (small) q.set('small', '1');
  return `/api/v1/models/${id}/preview?${q}`;
}

/** The drawing of the revision that a part names, with the letter of its designators. */
export function previewOf(m: { id: string; revision: number }, letter = ''): string {
  const q = new URLSearchParams();
  if (m.revision > 0) q.set('revision', String(m.revision));
  if (letter) q.set('letter', letter);
  return `/api/v1/models/${m.id}/preview?${q}`;
}
