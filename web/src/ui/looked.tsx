import { useEffect, useState } from 'react';
import { useAccount } from './unsaved';

/** A thing that was looked at. */
export interface Seen {
  kind: string;
  id: string;
  number: string;
  what: string;
  at: number;
}

/** How many are remembered. */
const most = 12;

const nameOf = (account: string) => `jolly-looked|${account}`;

function read(account: string): Seen[] {
  try {
    const all: unknown = JSON.parse(localStorage.getItem(nameOf(account)) ?? '[]');
    return Array.isArray(all)
      ? all.filter((s): s is Seen => typeof (s as Seen | null)?.id === 'string' && typeof (s as Seen).number === 'string')
      : [];
  } catch {
    return []; // what cannot be read is as if it were not there
  }
}

/** Remembers that somebody looks at a thing, on this machine and for this account. Draws nothing. */
export function Looked({ kind, id, number, what }: Omit<Seen, 'at'>) {
  const account = useAccount();
  useEffect(() => {
    const others = read(account).filter((s) => s.id !== id);
    try {
      localStorage.setItem(nameOf(account), JSON.stringify([{ kind, id, number, what, at: Date.now() }, ...others].slice(0, most)));
    } catch {
      // Where nothing can be kept, nothing is remembered.
    }
  }, [account, kind, id, number, what]);
  return null;
}

/** What somebody looked at last, the latest first. */
export function useLooked(): Seen[] {
  const account = useAccount();
  const [all] = useState(() => read(account));
  return all;
}
