import { Toast } from 'radix-ui';
import { createContext, useCallback, useContext, useState, type ReactNode } from 'react';

const Say = createContext<(text: string) => void>(() => undefined);

/** Returns a function that says a sentence about what was done. */
export function useSay() {
  return useContext(Say);
}

export function Toasts({ children }: { children: ReactNode }) {
  const [all, setAll] = useState<{ id: number; text: string }[]>([]);
  const say = useCallback((text: string) => setAll((a) => [...a.slice(-3), { id: Date.now() + Math.random(), text }]), []);
  return (
    <Say.Provider value={say}>
      <Toast.Provider duration={6000}>
        {children}
        {all.map((t) => (
          <Toast.Root
            key={t.id}
            onOpenChange={(o) => !o && setAll((a) => a.filter((x) => x.id !== t.id))}
            className="rounded border border-line bg-ink px-3 py-2 text-sm text-ground shadow-lg"
          >
            <Toast.Description>{t.text}</Toast.Description>
          </Toast.Root>
        ))}
        <Toast.Viewport className="fixed right-4 bottom-4 z-40 flex w-96 max-w-[90vw] flex-col gap-2" />
      </Toast.Provider>
    </Say.Provider>
  );
}
