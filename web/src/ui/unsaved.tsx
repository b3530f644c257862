import { createContext, useCallback, useContext, useEffect, useRef, useState, type ReactNode } from 'react';
import { useBlocker } from 'react-router';
import { Button, Dialog } from './kit';

/** Whose page this is: what is typed is kept for each account by itself. */
const Account = createContext('');

/** Says whose page this is. */
export function ForAccount({ id, children }: { id: string; children: ReactNode }) {
  return <Account.Provider value={id}>{children}</Account.Provider>;
}

/** Whose page this is. */
export const useAccount = () => useContext(Account);

const prefix = 'jolly-typed';

/** What was typed into a form and not saved. */
export interface Kept<T> {
  value: T;
  /** The version of the thing that was being changed; 0 for a new one. */
  version: number;
  at: number;
}

const nameOf = (account: string, form: string) => [prefix, account, form].join('|');

/** The forms on this page that may offer what was kept, by the name it is kept under. */
const forms = new Map<string, Set<() => void>>();

function read<T>(account: string, form: string): Kept<T> | undefined {
  try {
    const text = localStorage.getItem(nameOf(account, form));
    return text ? (JSON.parse(text) as Kept<T>) : undefined;
  } catch {
    return undefined; // what cannot be read is as if it were not there
  }
}

/** Forgets what an account typed and did not save, on this machine: it signs out. */
export function forgetTyped(account: string) {
  for (const key of Object.keys(localStorage)) if (key.startsWith([prefix, account, ''].join('|'))) localStorage.removeItem(key);
}

/** How long after a key what is typed is kept, in milliseconds. */
const pause = 300;

interface Editor<T> {
  /** What an earlier page kept of this form, to be offered. */
  kept: Kept<T> | undefined;
  /** Tells what is typed now; undefined where nothing is changed. */
  typed: (value: T | undefined) => void;
  /** Saved or discarded: nothing is kept, and leaving asks no more. */
  settled: () => void;
  /** To be drawn somewhere in the form: asks before a changed form is left. */
  leaving: ReactNode;
}

/**
 * Keeps what is typed into a form: through a reload, a crash or a lost session, on this machine and for this account, until it is
 * saved or discarded. Never for passwords and other secrets.
 */
export function useTyped<T>(form: string, version: number): Editor<T> {
  const account = useContext(Account);
  const [kept, setKept] = useState(() => read<T>(account, form));
  const [changed, setChanged] = useState(false);
  const open = useRef(false);
  const wait = useRef<ReturnType<typeof setTimeout>>(undefined);
  const last = useRef<T>(undefined);
  const name = nameOf(account, form);

  const write = useCallback(() => {
    clearTimeout(wait.current);
    if (last.current === undefined) return;
    try {
      localStorage.setItem(name, JSON.stringify({ value: last.current, version, at: Date.now() } satisfies Kept<T>));
    } catch {
      // A full store keeps nothing; leaving still asks.
    }
  }, [name, version]);

  const typed = useCallback(
    (value: T | undefined) => {
      last.current = value;
      open.current = value !== undefined;
      setChanged(value !== undefined);
      clearTimeout(wait.current);
      if (value === undefined) localStorage.removeItem(name);
      else wait.current = setTimeout(write, pause);
    },
    [name, write],
  );

  const settled = useCallback(() => {
    last.current = undefined;
    open.current = false;
    clearTimeout(wait.current);
    localStorage.removeItem(name);
    setChanged(false);
    // Also where the form was drawn anew in the meantime, by its own change: what was saved is not offered again.
    for (const drop of forms.get(name) ?? []) drop();
  }, [name]);
  useEffect(() => {
    const drop = () => setKept(undefined);
    const same = forms.get(name) ?? new Set();
    forms.set(name, same.add(drop));
    return () => {
      same.delete(drop);
    };
  }, [name]);

  useEffect(() => {
    if (!changed) return;
    const ask = (e: BeforeUnloadEvent) => {
      write();
      e.preventDefault();
    };
    addEventListener('beforeunload', ask);
    addEventListener('pagehide', write);
    return () => {
      removeEventListener('beforeunload', ask);
      removeEventListener('pagehide', write);
    };
  }, [changed, write]);
  useEffect(() => () => write(), [write]);

  // Asked when somebody leaves, not when the page is drawn: what was saved a moment ago is no longer open.
  const blocker = useBlocker(({ currentLocation: a, nextLocation: b }) => open.current && a.pathname !== b.pathname);
  const leaving =
    blocker.state === 'blocked' ? (
      <Dialog title="Leave without saving?" open onClose={() => blocker.reset()}>
        <p className="mb-3 text-sm">What you typed here is not saved yet.</p>
        <div className="flex flex-wrap gap-2">
          <Button look="act" onClick={() => blocker.reset()}>
            Stay
          </Button>
          <Button
            look="danger"
            onClick={() => {
              settled();
              blocker.proceed();
            }}
          >
            Discard it and leave
          </Button>
          <Button
            onClick={() => {
              write();
              open.current = false;
              blocker.proceed();
            }}
          >
            Leave and keep it for later
          </Button>
        </div>
      </Dialog>
    ) : null;
  return { kept, typed, settled, leaving };
}

/** Offers what was typed earlier and not saved. */
export function Offer<T>({
  kept,
  version,
  what,
  onTake,
  onDrop,
}: {
  kept: Kept<T> | undefined;
  /** Of the thing as it is now. */
  version: number;
  what: string;
  onTake: (kept: Kept<T>) => void;
  onDrop: () => void;
}) {
  if (!kept) return null;
  return (
    <div role="status" className="flex flex-wrap items-center gap-2 rounded border border-amber bg-amber-tint px-3 py-2 text-sm">
      <span aria-hidden="true">◐</span>
      <span className="min-w-56 flex-1">
        You typed changes to {what} on {new Date(kept.at).toLocaleString()} and did not save them.
        {kept.version !== version && ' It was changed since; you will see both when you save.'}
      </span>
      <Button look="act" onClick={() => onTake(kept)}>
        Go on with them
      </Button>
      <Button onClick={onDrop}>Discard them</Button>
    </div>
  );
}
