import { useIsFetching, useIsMutating } from '@tanstack/react-query';
import { Suspense, useEffect, useLayoutEffect, useRef, useState, type FormEvent } from 'react';
import { NavLink, Outlet, useLocation, useNavigate, useNavigation, useSearchParams } from 'react-router';
import { onSessionEnd, type Schemas } from '../api/client';
import { useUnread } from '../features/notices';
import { SignIn, SignInForm, useMe, useSignOut } from '../features/people';
import { begin, settle } from '../ui/idle';
import { Dialog, Empty, Menu, Trouble } from '../ui/kit';
import { forgetTyped, ForAccount } from '../ui/unsaved';
import { useLive } from './live';

const rooms = [
  { to: '/', text: 'Worklist', key: 'h' },
  { to: '/parts', text: 'Parts', key: 'p' },
  { to: '/intakes', text: 'Intakes', key: 'i' },
  { to: '/boms', text: 'BOMs', key: 'b' },
  { to: '/models', text: 'Models', key: 'm' },
  { to: '/series', text: 'Series', key: 'e' },
  { to: '/suppliers', text: 'Suppliers', key: 's' },
  { to: '/queue', text: 'Queue', key: 'q' },
  { to: '/wants', text: 'Wants', key: 'w' },
  { to: '/cabinet', text: 'Cabinet', key: 'c' },
  { to: '/crosswalks', text: 'Crosswalks', key: 'x' },
  { to: '/connections', text: 'Connections', key: 'k' },
  { to: '/lifecycles', text: 'Lifecycles', key: 'l' },
  { to: '/readout', text: 'Readout', key: 'r' },
  { to: '/trail', text: 'Trail', key: 't' },
  { to: '/people', text: 'People', key: 'o' },
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

/** Marks the page as idle when nothing is being asked or changed, or all of it waits for a person: tests wait for it. */
function useIdleMark(waiting: boolean) {
  const under = useIsFetching() + useIsMutating() + (useNavigation().state === 'idle' ? 0 : 1);
  const busy = under > 0 && !waiting;
  useLayoutEffect(() => (busy ? begin() : settle()), [busy]);
}

/** Somebody goes on to another page: the keyboard goes with them, and those who hear the page are told where they are. */
function useArrival() {
  const { pathname } = useLocation();
  const first = useRef(true);
  useEffect(() => {
    if (first.current) {
      first.current = false;
      return;
    }
    const now = document.activeElement;
    if (now && now !== document.body && document.getElementById('main')?.contains(now)) return; // a page that took it itself
    document.getElementById('main')?.focus();
  }, [pathname]);
}

/** Puts the keyboard into the table that a search fills, as soon as it is there. */
function toTable() {
  const until = Date.now() + 3000;
  const end = begin();
  const look = () => {
    const grid = document.querySelector<HTMLElement>('#main [role=grid]');
    grid?.focus();
    if (!grid && Date.now() < until) setTimeout(look, 50);
    else end();
  };
  setTimeout(look, 0);
}

/** Signing in again happens in place: the page below stays as it is, and what was being sent goes on. */
function useSignInAgain() {
  const [asked, setAsked] = useState<((done: boolean) => void)[]>([]);
  useEffect(() => {
    onSessionEnd(() => new Promise((done) => setAsked((all) => [...all, done])));
    return () => onSessionEnd(undefined);
  }, []);
  const answer = (done: boolean) => {
    for (const tell of asked) tell(done);
    setAsked([]);
  };
  return { asked: asked.length > 0, answer };
}

/** The way to the notices, and how many are new. */
function Told() {
  const unread = useUnread(true).data?.unread ?? 0;
  return (
    <NavLink
      to="/notices"
      className="flex items-center gap-1.5 rounded px-2 py-1 text-sm font-semibold whitespace-nowrap hover:bg-[#12616a]"
      title="What you were told  (g n)"
    >
      Notices
      <span
        role="status"
        aria-label={unread === 0 ? 'none new' : `${unread} new`}
        className={unread > 0 ? 'min-w-5 rounded-full bg-[#ffce73] px-1.5 text-center text-xs font-bold text-[#1c2b30]' : 'sr-only'}
      >
        {unread > 99 ? '99+' : unread}
      </span>
    </NavLink>
  );
}

export function Shell() {
  const me = useMe();
  const signOut = useSignOut();
  const navigate = useNavigate();
  const [params] = useSearchParams();
  const asked = params.get('q') ?? '';
  const [theme, flip] = useTheme();
  const [keys, setKeys] = useState(false);
  const again = useSignInAgain();
  // Who was here stays here until they sign out: a session that ends takes no page away.
  const [was, setWas] = useState<Schemas['Me']>();
  if (me.data && me.data.id !== was?.id) setWas(me.data);
  const who = me.data ?? was;
  useIdleMark(again.asked);
  useLive(who !== undefined);
  useArrival();

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
        const room = e.key === 'n' ? { to: '/notices' } : rooms.find((r) => r.key === e.key);
        if (room) void navigate(room.to);
      }
      go = e.key === 'g';
    };
    addEventListener('keydown', onKey);
    return () => removeEventListener('keydown', onKey);
  }, [navigate]);

  if (!who && me.isPending) return <Empty title="One moment…" />;
  if (!who && me.error) return <div className="p-6"><Trouble error={me.error} /></div>; // prettier-ignore
  if (!who) return <SignIn />;

  const find = (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const q = String(new FormData(e.currentTarget).get('q') ?? '');
    void navigate(`/parts?q=${encodeURIComponent(q)}`);
    toTable();
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
        <NavLink to="/" className="flex items-center gap-2 font-semibold whitespace-nowrap">
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
        <Told />
        <Menu
          label={who.name}
          items={[
            { text: theme === 'dark' ? 'Light colours' : 'Dark colours', onSelect: flip },
            { text: 'Keys', onSelect: () => setKeys(true) },
            { text: 'Your password and tokens', onSelect: () => void navigate('/you') },
            {
              text: 'Sign out',
              onSelect: () =>
                signOut.mutate(undefined, {
                  onSuccess: () => {
                    forgetTyped(who.id);
                    setWas(undefined);
                  },
                }),
            },
          ]}
        />
      </header>
      <nav aria-label="Rooms" className="flex gap-1.5 overflow-auto border-r border-line bg-ground p-2 md:flex-col">
        {rooms.map((r) => (
          <NavLink
            key={r.to}
            to={r.to}
            end={r.to === '/'}
            className={({ isActive }) =>
              `label-holder px-3 py-2 text-sm font-semibold ${isActive ? 'border-b-amber bg-sheet text-ink' : 'text-soft hover:bg-sheet hover:text-ink'}`
            }
          >
            {r.text}
          </NavLink>
        ))}
      </nav>
      <main id="main" tabIndex={-1} className="flex min-h-0 min-w-0 flex-col overflow-hidden outline-none">
        <ForAccount id={who.id}>
          <Suspense fallback={<Empty title="One moment…" />}>
            <Outlet />
          </Suspense>
        </ForAccount>
      </main>
      {again.asked && (
        <Dialog title="Your session has ended" open onClose={() => again.answer(false)}>
          <p className="mb-3 text-sm">Sign in again as {who.name}: what you were doing goes on, and nothing you typed is lost.</p>
          <SignInForm login={who.login} onDone={() => again.answer(true)} />
        </Dialog>
      )}
      <Dialog title="Keys" open={keys} onClose={() => setKeys(false)}>
        <dl className="grid grid-cols-[8rem_1fr] gap-y-1 text-sm">
          {[
            ['/', 'go to the search box'],
            [
              'g then h p i b m e q w c x l r t o n',
              'go to Worklist, Parts, Intakes, BOMs, Models, Series, Queue, Wants, Cabinet, Crosswalks, Lifecycles, Readout, Trail, People, Notices',
            ],
            ['↑ ↓ PgUp PgDn', 'move in a table'],
            ['Enter', 'open the row'],
            ['Space', 'select the row'],
            ['b', 'in the list of parts: the active part beside it'],
            ['n', 'on a board: the first line that nothing answers; there each line names its keys'],
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
