import { useIsFetching, useIsMutating, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState, type FormEvent } from 'react';
import { NavLink, Outlet, useNavigate, useSearchParams } from 'react-router';
import { SignIn, useMe, useSignOut } from '../features/people';
import { Dialog, Empty, Menu, Trouble } from '../ui/kit';

const rooms = [
  { to: '/parts', text: 'Parts', key: 'p' },
  { to: '/intakes', text: 'Intakes', key: 'i' },
  { to: '/boms', text: 'BOMs', key: 'b' },
  { to: '/models', text: 'Models', key: 'm' },
  { to: '/cabinet', text: 'Cabinet', key: 'c' },
  { to: '/crosswalks', text: 'Crosswalks', key: 'x' },
];

function useTheme() {
  const [theme, setTheme] = useState(
    () => localStorage.getItem('theme') ?? (matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light'),
  );
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  const flip = () => {
    const other = theme === 'dark' ? 'light' : 'dark';
    localStorage.setItem('theme', other); // only a choice is remembered; otherwise the system's setting holds
    setTheme(other);
  };
  return [theme, flip] as const;
}

/** Marks the page as idle when nothing is being asked or changed: tests wait for it. */
function useIdleMark() {
  const busy = useIsFetching() + useIsMutating();
  useEffect(() => {
    const set = setTimeout(() => (document.documentElement.dataset.idle = busy === 0 ? 'yes' : 'no'), busy === 0 ? 60 : 0);
    return () => clearTimeout(set);
  }, [busy]);
}

/**
 * Hears of every deed and asks anew for what is on the page. A browser opens few connections to one address, so one
 * page holds the stream and tells the others; when it closes, the next one takes over.
 */
function useLive(on: boolean) {
  const queries = useQueryClient();
  useEffect(() => {
    if (!on) return;
    const channel = new BroadcastChannel('jolly-deeds');
    const end = new AbortController();
    let stream: EventSource | undefined;
    const hear = () => void queries.invalidateQueries();
    channel.onmessage = hear;
    const hold = () => {
      stream = new EventSource('/api/v1/events');
      stream.addEventListener('deed', () => {
        hear();
        channel.postMessage('deed');
      });
      return new Promise<void>((done) => end.signal.addEventListener('abort', () => done()));
    };
    // Locks are there on HTTPS and on loopback only; elsewhere every page holds a stream of its own.
    if ('locks' in navigator) void navigator.locks.request('jolly-stream', { signal: end.signal }, hold).catch(() => undefined);
    else void hold();
    return () => {
      end.abort();
      stream?.close();
      channel.close();
    };
  }, [on, queries]);
}

export function Shell() {
  const me = useMe();
  const signOut = useSignOut();
  const navigate = useNavigate();
  const [params] = useSearchParams();
  const asked = params.get('q') ?? '';
  const [theme, flip] = useTheme();
  const [keys, setKeys] = useState(false);
  useIdleMark();
  useLive(me.data != null);

  useEffect(() => {
    let go = false;
    const onKey = (e: KeyboardEvent) => {
      const t = e.target as HTMLElement;
      if (e.ctrlKey || e.metaKey || e.altKey || /^(INPUT|TEXTAREA|SELECT)$/.test(t.tagName)) return;
      if (e.key === '/') {
        e.preventDefault();
        document.getElementById('find')?.focus();
      } else if (e.key === '?') setKeys(true);
      else if (go) {
        const room = rooms.find((r) => r.key === e.key);
        if (room) void navigate(room.to);
      }
      go = e.key === 'g';
    };
    addEventListener('keydown', onKey);
    return () => removeEventListener('keydown', onKey);
  }, [navigate]);

  if (me.isPending) return <Empty title="One moment…" />;
  if (me.error) return <div className="p-6"><Trouble error={me.error} /></div>; // prettier-ignore
  if (!me.data) return <SignIn />;

  const find = (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const q = String(new FormData(e.currentTarget).get('q') ?? '');
    void navigate(`/parts?q=${encodeURIComponent(q)}`);
  };
  return (
    <div className="grid h-dvh grid-cols-1 grid-rows-[auto_auto_1fr] md:grid-cols-[9.5rem_1fr] md:grid-rows-[auto_1fr]">
      <a href="#main" className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-sheet focus:p-2">
        Skip to the page
      </a>
      <header
        className="flex items-center gap-4 bg-water-strong px-4 py-2 text-[#fffdf8] md:col-span-2 dark:bg-[#0b3a3f]"
        style={{ backgroundColor: '#0a474d' }}
      >
        <NavLink to="/parts" className="flex items-center gap-2 font-semibold whitespace-nowrap">
          <img src="/mark.svg" alt="" className="size-6" /> Jolly Drawer
        </NavLink>
        <form role="search" onSubmit={find} className="max-w-2xl flex-1">
          <label htmlFor="find" className="sr-only">
            Find parts
          </label>
          <input
            id="find"
            name="q"
            key={asked}
            defaultValue={asked}
            autoComplete="off"
            placeholder="Find parts: 4k7 0805 1%   ( / )"
            className="w-full rounded border border-[#5f9095] bg-[#fffdf8] px-3 py-1 text-sm text-[#1c2b30] placeholder:text-[#566369]"
          />
        </form>
        <span className="ml-auto" />
        <Menu
          label={me.data.name}
          items={[
            { text: theme === 'dark' ? 'Light colours' : 'Dark colours', onSelect: flip },
            { text: 'Keys', onSelect: () => setKeys(true) },
            { text: 'Sign out', onSelect: () => signOut.mutate() },
          ]}
        />
      </header>
      <nav aria-label="Rooms" className="flex gap-1.5 overflow-auto border-r border-line bg-ground p-2 md:flex-col">
        {rooms.map((r) => (
          <NavLink
            key={r.to}
            to={r.to}
            className={({ isActive }) =>
              `label-holder px-3 py-2 text-sm font-semibold ${isActive ? 'border-b-amber bg-sheet text-ink' : 'text-soft hover:bg-sheet hover:text-ink'}`
            }
          >
            {r.text}
          </NavLink>
        ))}
      </nav>
      <main id="main" className="flex min-h-0 min-w-0 flex-col overflow-hidden">
        <Outlet />
      </main>
      <Dialog title="Keys" open={keys} onClose={() => setKeys(false)}>
        <dl className="grid grid-cols-[8rem_1fr] gap-y-1 text-sm">
          {[
            ['/', 'go to the search box'],
            ['g then p i b m c x', 'go to Parts, Intakes, BOMs, Models, Cabinet, Crosswalks'],
            ['↑ ↓ PgUp PgDn', 'move in a table'],
            ['Enter', 'open the row'],
            ['Space', 'select the row'],
            ['b', 'in the list of parts: the active part beside it'],
            ['Esc', 'close a dialog'],
            ['?', 'this list'],
          ].map(([k, what]) => (
            <div key={k} className="contents">
              <dt className="font-mono">{k}</dt>
              <dd>{what}</dd>
            </div>
          ))}
        </dl>
      </Dialog>
    </div>
  );
}
