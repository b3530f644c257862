import type { Schemas } from '../../api/client';

/** What can become of a row, in the order in which they are shown. */
export const states = ['new', 'update', 'alternate', 'known', 'differs', 'repeat', 'unsorted', 'blocked', 'left out'];

/** How a file was read, in words. */
export function layoutWords(l: Schemas['Layout']) {
  return [
    `read as ${l.format ?? ''}`,
    l.encoding,
    l.delimiter && `with “${l.delimiter === '\t' ? 'tab' : l.delimiter}”`,
    l.sheet && `sheet “${l.sheet}”`,
    l.inside && `${l.inside} in the archive`,
    l.headerRow && `, header in row ${l.headerRow}`,
  ]
    .filter(Boolean)
    .join(' ')
    .replace(' ,', ',');
}
