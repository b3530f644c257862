import type { ReactNode } from 'react';

/** A list that scrolls in itself. It is reached with Tab, so that who has no mouse can scroll it (WCAG 2.2, 2.1.1). */
export function ScrollList({ as: List = 'ul', className, children }: { as?: 'ul' | 'ol'; className: string; children: ReactNode }) {
  return (
    <List tabIndex={0} className={`overflow-auto ${className}`}>
      {children}
    </List>
  );
}

interface Area {
  as?: 'div' | 'aside';
  label: string;
  className: string;
  children: ReactNode;
}

/** A part of a page that scrolls in itself, reached as a list is. */
export function ScrollArea({ as: Part = 'div', label, className, children }: Area) {
  return (
    <Part role={Part === 'div' ? 'group' : undefined} aria-label={label} tabIndex={0} className={className}>
      {children}
    </Part>
  );
}
