import { shapes } from './shapes';
import { Dialog as RadixDialog, DropdownMenu } from 'radix-ui';
import {
  useEffect,
  useId,
  useRef,
  type ButtonHTMLAttributes,
  type RefAttributes,
  type InputHTMLAttributes,
  type ReactNode,
  type SelectHTMLAttributes,
  type TextareaHTMLAttributes,
} from 'react';

const looks = {
  plain: 'border border-line bg-sheet text-ink hover:bg-tint',
  act: 'border border-water bg-water text-onwater hover:bg-water-strong',
  quiet: 'border border-transparent text-water hover:bg-tint',
  danger: 'border border-rust text-rust bg-sheet hover:bg-rust-tint',
};

export function Button({
  look = 'plain',
  className = '',
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & RefAttributes<HTMLButtonElement> & { look?: keyof typeof looks }) {
  return (
    <button
      type="button"
      className={`inline-flex min-h-7 items-center gap-1.5 rounded px-2.5 py-1 text-sm font-medium whitespace-nowrap disabled:cursor-not-allowed disabled:opacity-50 ${looks[look]} ${className}`}
      {...rest}
    />
  );
}

const box = 'min-h-7 w-full rounded border border-line bg-sheet px-2 py-1 text-sm text-ink placeholder:text-soft';

interface Labelled {
  label: string;
  hint?: ReactNode;
  error?: string;
  hideLabel?: boolean;
}

/** A hint and an error belong to their field: those who hear the page hear them with it. */
function described(id: string, hint: ReactNode, error?: string) {
  return [error && `${id}-error`, hint && `${id}-hint`].filter(Boolean).join(' ') || undefined;
}

function Around({ id, label, hint, error, hideLabel, children }: Labelled & { id: string; children: ReactNode }) {
  return (
    <div className="min-w-0">
      <label htmlFor={id} className={hideLabel ? 'sr-only' : 'mb-0.5 block text-xs font-semibold text-soft'}>
        {label}
      </label>
      {children}
      {hint && (
        <p id={`${id}-hint`} className="mt-0.5 text-xs text-soft">
          {hint}
        </p>
      )}
      {error && (
        <p id={`${id}-error`} role="alert" className="mt-0.5 text-xs font-medium text-rust">
          ✕ {error}
        </p>
      )}
    </div>
  );
}

export function Field({ label, hint, error, hideLabel, className = '', ...rest }: InputHTMLAttributes<HTMLInputElement> & Labelled) {
  const id = useId();
  return (
    <Around {...{ id, label, hint, error, hideLabel }}>
      <input
        id={id}
        aria-invalid={error ? true : undefined}
        aria-describedby={described(id, hint, error)}
        className={`${box} ${className}`}
        {...rest}
      />
    </Around>
  );
}

export function TextArea({ label, hint, error, hideLabel, ...rest }: TextareaHTMLAttributes<HTMLTextAreaElement> & Labelled) {
  const id = useId();
  return (
    <Around {...{ id, label, hint, error, hideLabel }}>
      <textarea
        id={id}
        spellCheck={false}
        aria-invalid={error ? true : undefined}
        aria-describedby={described(id, hint, error)}
        className={`${box} font-mono text-xs`}
        {...rest}
      />
    </Around>
  );
}

export function Select({ label, hint, error, hideLabel, children, ...rest }: SelectHTMLAttributes<HTMLSelectElement> & Labelled) {
  const id = useId();
  return (
    <Around {...{ id, label, hint, error, hideLabel }}>
      <select id={id} aria-invalid={error ? true : undefined} aria-describedby={described(id, hint, error)} className={box} {...rest}>
        {children}
      </select>
    </Around>
  );
}

const tones = {
  good: { mark: '●', style: 'bg-moss-tint text-moss' },
  open: { mark: '◐', style: 'bg-amber-tint text-amber' },
  bad: { mark: '▲', style: 'bg-rust-tint text-rust' },
  calm: { mark: '○', style: 'bg-tint text-soft' },
  plain: { mark: '■', style: 'bg-tint text-water' },
};
export type Tone = keyof typeof tones;

/** A state as a word with a shape: the colour only helps. */
export function Chip({ tone = 'calm', children }: { tone?: Tone; children: ReactNode }) {
  return (
    <span className={`inline-flex items-center gap-1 rounded-sm px-1.5 py-px text-xs font-medium whitespace-nowrap ${tones[tone].style}`}>
      <span aria-hidden="true">{tones[tone].mark}</span>
      {children}
    </span>
  );
}

const stateTones: Record<string, Tone> = {
  released: 'good', draft: 'open', active: 'good', 'not for new designs': 'open', obsolete: 'bad',
  new: 'plain', update: 'plain', alternate: 'plain', unsorted: 'bad', withdrawn: 'bad', 'taken back': 'calm', known: 'good', differs: 'open', repeat: 'calm', blocked: 'bad', 'left out': 'calm',
  answered: 'good', 'taken on': 'plain', declined: 'calm',
  linked: 'good', proposed: 'open', several: 'open', 'not in the library': 'bad', 'not fitted': 'calm', 'no library part': 'calm', 'sub-assembly': 'calm', 'another BOM': 'good',
  agrees: 'good', better: 'plain', contradicts: 'bad', 'record is silent': 'calm', 'not understood': 'open', 'not used': 'calm',
  error: 'bad', warning: 'open', note: 'calm', open: 'open', 'taken in': 'good',
}; // prettier-ignore

export function State({ of, more }: { of: string; more?: string }) {
  return <Chip tone={stateTones[of] ?? 'calm'}>{more ? `${of} ${more}` : of}</Chip>;
}

/** A state of a lifecycle: the house's own word with the shape that its document gives it; the colour only helps. */
export function LifeState({ of, more }: { of: { word: string; meaning?: string; use: string; shape: string }; more?: string }) {
  const tone: Tone = of.use === 'no' ? 'bad' : of.meaning === 'superseded' ? 'calm' : of.use === 'yes' ? 'good' : 'open';
  return (
    <span className={`inline-flex items-center gap-1 rounded-sm px-1.5 py-px text-xs font-medium whitespace-nowrap ${tones[tone].style}`}>
      <span aria-hidden="true">{shapes[of.shape] ?? '○'}</span>
      {of.word}
      {more && ` ${more}`}
    </span>
  );
}

/** Where work in a dialog begins: what is marked so, its first field, its first button, and only then the cross that closes it. */
function firstOf(dialog: HTMLElement | null): HTMLElement | null {
  if (!dialog) return null;
  const fields =
    'input:not([type=hidden]):not([disabled]):not([readonly]), select:not([disabled]), textarea:not([disabled]):not([readonly])';
  return (
    dialog.querySelector<HTMLElement>('[data-first]') ??
    dialog.querySelector<HTMLElement>(fields) ??
    dialog.querySelector<HTMLElement>('button:not([disabled]):not([data-close]), a[href]') ??
    dialog
  );
}

/** Gives the keyboard back to what opened a dialog, or to the page where that is gone. */
function giveBack(opener: Element | null) {
  if (opener instanceof HTMLElement && opener.isConnected && opener !== document.body) opener.focus();
  else document.getElementById('main')?.focus();
}

export function Dialog({
  title,
  open,
  onClose,
  children,
  wide,
}: {
  title: string;
  open: boolean;
  onClose: () => void;
  children: ReactNode;
  wide?: boolean;
}) {
  const body = useRef<HTMLDivElement>(null);
  const opener = useRef<Element>(null);
  return (
    <RadixDialog.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <RadixDialog.Portal>
        <RadixDialog.Overlay className="fixed inset-0 z-20 bg-black/45" />
        <RadixDialog.Content
          ref={body}
          aria-describedby={undefined}
          onOpenAutoFocus={(e) => {
            e.preventDefault();
            opener.current = document.activeElement;
            firstOf(body.current)?.focus();
          }}
          onKeyDownCapture={(e) => {
            // The key that opened a dialog and is still held must not press what is in it.
            if (e.repeat && (e.key === 'Enter' || e.key === ' ') && e.target instanceof HTMLElement && e.target.matches('button, a'))
              e.preventDefault();
          }}
          onCloseAutoFocus={(e) => {
            e.preventDefault();
            giveBack(opener.current);
          }}
          className={`fixed top-16 left-1/2 z-30 max-h-[80vh] w-[94vw] -translate-x-1/2 overflow-auto rounded-md border border-line bg-sheet p-4 shadow-xl ${wide ? 'max-w-4xl' : 'max-w-lg'}`}
        >
          <div className="mb-3 flex items-start justify-between gap-4">
            <RadixDialog.Title className="text-lg font-semibold">{title}</RadixDialog.Title>
            <RadixDialog.Close data-close="" aria-label="Close" className="rounded px-2 py-0.5 hover:bg-tint">
              ✕
            </RadixDialog.Close>
          </div>
          {children}
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  );
}

export function Menu({ label, items }: { label: ReactNode; items: { text: string; onSelect: () => void }[] }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button>{label}</Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          className="z-30 max-h-(--radix-dropdown-menu-content-available-height) min-w-40 overflow-y-auto rounded border border-line bg-sheet p-1 shadow-lg"
        >
          {items.map((i) => (
            <DropdownMenu.Item
              key={i.text}
              onSelect={i.onSelect}
              className="cursor-pointer rounded px-2 py-1 text-sm outline-none data-[highlighted]:bg-tint"
            >
              {i.text}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** Says what went wrong and what to do, where it happened. */
export function Trouble({ error }: { error: unknown }) {
  if (!error) return null;
  const e = error as { message?: string; problem?: { errors?: { location?: string; message: string }[] } };
  return (
    <div role="alert" className="rounded border border-rust bg-rust-tint px-3 py-2 text-sm text-rust">
      <strong>▲ </strong>
      {e.message}
      {e.problem?.errors && (
        <ul className="mt-1 list-disc pl-5">
          {e.problem.errors.map((p, i) => (
            <li key={i}>{p.message}</li>
          ))}
        </ul>
      )}
    </div>
  );
}

export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="m-6 rounded border border-dashed border-line p-8 text-center">
      <p className="text-lg font-semibold">{title}</p>
      <div className="mt-2 text-soft">{children}</div>
    </div>
  );
}

export function Panel({ title, actions, children }: { title: ReactNode; actions?: ReactNode; children: ReactNode }) {
  return (
    <section className="rounded border border-line bg-sheet">
      <div className="flex min-h-9 flex-wrap items-center justify-between gap-2 border-b border-line px-3 py-1">
        <h2 className="text-sm font-semibold">{title}</h2>
        <div className="flex gap-2">{actions}</div>
      </div>
      <div className="p-3">{children}</div>
    </section>
  );
}

/** The head of a page: what it is, what can be done here. */
export function PageHead({ title, sub, children }: { title: ReactNode; sub?: ReactNode; children?: ReactNode }) {
  const head = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    const words = head.current?.textContent?.trim();
    document.title = words ? `${words} · Jolly Drawer` : 'Jolly Drawer';
  });
  return (
    <header className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-line bg-sheet px-4 py-2.5">
      <div className="min-w-[min(100%,18rem)] flex-1">
        <h1 ref={head} className="truncate text-xl font-semibold">
          {title}
        </h1>
        {sub && <div className="text-sm text-soft">{sub}</div>}
      </div>
      <div className="flex flex-wrap items-center gap-2">{children}</div>
    </header>
  );
}
