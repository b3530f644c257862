import { Toast } from 'radix-ui';
import { createContext, useCallback, useContext, useState, type ReactNode } from 'react';

const Say = createContext<(text: string) => void>(() => undefined);

/** Returns a function that says a sentence about what was done. */
export function useSay() {
  return useContext(Say);
}

/** How long a sentence stays, in milliseconds: long enough for whoever looked elsewhere. It stays while one points at it. */
const stays = 20_000;

export function Toasts({ children }: { children: ReactNode }) {
  const [all, setAll] = useState<{ id: number; text: string }[]>([]);
  const say = useCallback((text: string) => setAll((a) => [...a.slice(-3), { id: Date.now() + Math.random(), text }]), []);
  return (
    <Say.Provider value={say}>
      <Toast.Provider duration={stays}>
        {children}
        {all.map((t) => (
          <Toast.Root
            key={t.id}
            onOpenChange={(o) => !o && setAll((a) => a.filter((x) => x.id !== t.id))}
            className="flex items-start gap-3 rounded border border-line bg-ink px-3 py-2 text-sm text-ground shadow-lg"
          >
            <Toast.Description className="flex-1">{t.text}</Toast.Description>
            <Toast.Close aria-label="Close this message" className="min-h-6 min-w-6 rounded leading-none hover:bg-ground/20">
              ✕
            </Toast.Close>
          </Toast.Root>
        ))}
        <Toast.Viewport className="fixed right-4 bottom-4 z-40 flex w-96 max-w-[90vw] flex-col gap-2" />
      </Toast.Provider>
    </Say.Provider>
  );
}
