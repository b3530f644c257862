import type { ReactNode } from 'react';

/** A list that scrolls in itself. It is reached with Tab, so that who has no mouse can scroll it (WCAG 2.2, 2.1.1). */
export function ScrollList({ as: List = 'ul', className, children }: { as?: 'ul' | 'ol'; className: string; children: ReactNode }) {
  return (
    <List tabIndex={0} className={`overflow-auto ${className}`}>
      {children}
    </List>
  );
}
