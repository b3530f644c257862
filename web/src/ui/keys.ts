import { useEffect, useRef } from 'react';

/**
 * Keys of a page, or of the dialog over it: each does something wherever the focus is, but in a field that is typed into. A page is deaf while
 * a dialog is open, and to a key behind `g`, which leads to another room.
 */
export function useKeys(does: Record<string, (() => void) | undefined>, where: 'page' | 'dialog') {
  const now = useRef(does);
  useEffect(() => {
    now.current = does;
  });
  useEffect(() => {
    let before = '';
    const pressed = (e: KeyboardEvent) => {
      const behind = before;
      before = e.key;
      const typing = e.target instanceof HTMLElement && e.target.matches('input:not([type=checkbox]), textarea, select');
      if (e.ctrlKey || e.metaKey || e.altKey || typing || e.repeat) return;
      if (where === 'page' && (behind === 'g' || document.querySelector('[role=dialog]'))) return;
      const act = now.current[e.key];
      if (!act) return;
      e.preventDefault();
      act();
    };
    document.addEventListener('keydown', pressed);
    return () => document.removeEventListener('keydown', pressed);
  }, [where]);
}
