// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, fireEvent, render, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { createMemoryRouter, Link, RouterProvider } from 'react-router';
import { beforeAll, describe, expect, it, vi } from 'vitest';
import { useAct } from '../api/write';
import { Asked } from './asked';
import { Choose } from './choose';
import { Button, Dialog, Field, PageHead } from './kit';
import { Moved } from './moved';
import { DataTable } from './table';
import { ForAccount, forgetTyped, Offer, useTyped } from './unsaved';

beforeAll(() => {
  // What jsdom lacks: menus ask for it, and the table for its size.
  Element.prototype.hasPointerCapture = () => false;
  Element.prototype.scrollIntoView = () => {};
  Element.prototype.scrollTo = () => {};
  Object.defineProperty(HTMLElement.prototype, 'clientHeight', { configurable: true, value: 600 });
  Object.defineProperty(HTMLElement.prototype, 'clientWidth', { configurable: true, value: 800 });
});

describe('a dialog', () => {
  function House() {
    const [open, setOpen] = useState(false);
    return (
      <>
        <Button onClick={() => setOpen(true)}>Open</Button>
        <Dialog title="A dialog" open={open} onClose={() => setOpen(false)}>
          <p>words</p>
          <Field label="First" />
          <Field label="Second" />
          <Button>Do it</Button>
        </Dialog>
      </>
    );
  }
  it('opens on its first field and gives the keyboard back to what opened it', async () => {
    const user = userEvent.setup();
    render(<House />);
    await user.click(screen.getByRole('button', { name: 'Open' }));
    expect(document.activeElement).toBe(screen.getByLabelText('First'));
    await user.keyboard('{Escape}');
    expect(screen.queryByRole('dialog')).toBeNull();
    await waitFor(() => expect(document.activeElement).toBe(screen.getByRole('button', { name: 'Open' })));
  });
  it('is pressed by a key that is pressed anew, not by the one that opened it and is still held', () => {
    render(
      <Dialog title="Sure?" open onClose={() => {}}>
        <Button>Do it</Button>
      </Dialog>,
    );
    const button = screen.getByRole('button', { name: 'Do it' });
    expect(fireEvent.keyDown(button, { key: 'Enter', repeat: true })).toBe(false); // what would press it is prevented
    expect(fireEvent.keyDown(button, { key: 'Enter' })).toBe(true);
  });
});

describe('a field', () => {
  it('has its hint and its error as its description', () => {
    render(<Field label="Power" hint="in W" error="it is a voltage" />);
    const field = screen.getByLabelText('Power');
    expect(field.getAttribute('aria-invalid')).toBe('true');
    const described = (field.getAttribute('aria-describedby') ?? '').split(' ').map((id) => document.getElementById(id)?.textContent);
    expect(described.join(' ')).toContain('it is a voltage');
  });
});

describe('a choice', () => {
  it('takes effect only where it was opened, chosen and confirmed', async () => {
    const user = userEvent.setup();
    const chosen = vi.fn();
    render(
      <Choose label="Drawer" text="choose…" options={['red', 'green', 'blue'].map((c) => ({ value: c, text: c }))} onChoose={chosen} />,
    );
    const closed = screen.getByRole('button', { name: /^Drawer:/ });
    closed.focus();
    await user.keyboard('g');
    expect(chosen).not.toHaveBeenCalled();
    await user.keyboard('{ArrowDown}'); // opens
    await user.keyboard('{ArrowDown}{ArrowDown}{ArrowUp}');
    expect(chosen).not.toHaveBeenCalled();
    await user.keyboard('{Escape}');
    expect(chosen).not.toHaveBeenCalled();
    await user.keyboard('{Enter}');
    await user.click(screen.getByRole('menuitemradio', { name: /green/ }));
    expect(chosen.mock.calls).toEqual([['green']]);
  });
});

describe('an answer', () => {
  const question = { data: undefined as string | undefined, error: null as unknown, isPending: true, dataUpdatedAt: 0, refetch: vi.fn() };
  const draw = (of: typeof question) => <Asked of={of}>{(text) => <input aria-label="form" defaultValue={text} />}</Asked>;
  it('stays, with what is typed below it, when asking anew fails', async () => {
    const user = userEvent.setup();
    const { rerender } = render(draw({ ...question, data: 'as it was' }));
    await user.type(screen.getByLabelText('form'), ' and mine');
    rerender(draw({ ...question, data: 'as it was', dataUpdatedAt: 1, error: { message: 'The service does not answer.' } }));
    expect((screen.getByLabelText('form') as HTMLInputElement).value).toBe('as it was and mine');
    expect(screen.getByRole('status').textContent).toContain('could not be asked for anew');
    await user.click(screen.getByRole('button', { name: 'Try again' }));
    expect(question.refetch).toHaveBeenCalledOnce();
  });
  it('that never came is an error that can be asked again', () => {
    render(draw({ ...question, error: { message: 'gone' } }));
    expect(screen.queryByLabelText('form')).toBeNull();
    expect(screen.getByRole('button', { name: 'Try again' })).toBeTruthy();
  });
});

describe('what is typed', () => {
  function Form({ version = 1 }: { version?: number }) {
    const { kept, typed, settled, leaving } = useTyped<string>('part p1', version);
    const [text, setText] = useState('');
    return (
      <>
        <PageHead title="Edit" />
        <Offer kept={kept} version={version} what="EW-R-1" onDrop={settled} onTake={(k) => setText(k.value)} />
        <input
          aria-label="text"
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            typed(e.target.value || undefined);
          }}
        />
        <button onClick={settled}>Save</button>
        <Link to="/other">elsewhere</Link>
        {leaving}
      </>
    );
  }
  const house = (account: string, version?: number) => {
    const router = createMemoryRouter([
      { path: '/', element: <ForAccount id={account}>{<Form version={version} />}</ForAccount> },
      { path: '/other', element: <p>another page</p> },
    ]);
    return render(<RouterProvider router={router} />);
  };

  it('is kept through a reload, for its account, and offered with what changed meanwhile', async () => {
    const user = userEvent.setup();
    const first = house('maren');
    await user.type(screen.getByLabelText('text'), '125 mW');
    first.unmount(); // as a reload does
    house('tove').unmount();
    house('tove');
    expect(screen.queryByText(/You typed changes/)).toBeNull();
    cleanup();
    house('maren', 2);
    expect(screen.getByRole('status').textContent).toContain('It was changed since');
    await user.click(screen.getByRole('button', { name: 'Go on with them' }));
    expect((screen.getByLabelText('text') as HTMLInputElement).value).toBe('125 mW');
  });
  it('is gone after saving, after discarding, and after signing out', async () => {
    const user = userEvent.setup();
    for (const end of ['save', 'discard', 'sign out', 'take back']) {
      const first = house('maren');
      await user.type(screen.getByLabelText('text'), 'x');
      if (end === 'save') await user.click(screen.getByText('Save'));
      if (end === 'take back') await user.clear(screen.getByLabelText('text'));
      first.unmount();
      if (end === 'sign out') forgetTyped('maren');
      const second = house('maren');
      if (end === 'discard') await user.click(screen.getByRole('button', { name: 'Discard them' }));
      second.unmount();
      house('maren');
      expect(screen.queryByText(/You typed changes/), end).toBeNull();
      cleanup();
    }
  });
  it('is saved once, also when its form is drawn anew before the answer is there', async () => {
    // The change arrives by the feed while the answer to its own call is on its way.
    const user = userEvent.setup();
    const said: string[] = [];
    let answer: (x: string) => void = () => undefined;
    function Table({ version }: { version: number }) {
      const { kept, typed, settled } = useTyped<string>('table', version);
      const save = useAct({ mutationFn: () => new Promise<string>((done) => (answer = done)) });
      return (
        <>
          <Offer kept={kept} version={version} what="the table" onDrop={settled} onTake={() => undefined} />
          <input aria-label="text" onChange={(e) => typed(e.target.value)} />
          <button onClick={() => save.mutate(undefined, { onSuccess: (x) => (said.push(x), settled()) })}>Save</button>
        </>
      );
    }
    function Room() {
      const [version, setVersion] = useState(1);
      return (
        <>
          <Table key={version} version={version} />
          <button onClick={() => setVersion(2)}>it changed</button>
        </>
      );
    }
    const queries = new QueryClient();
    const router = createMemoryRouter([{ path: '/', element: <Room /> }]);
    render(
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>,
    );
    await user.type(screen.getByLabelText('text'), 'x');
    fireEvent(window, new Event('pagehide')); // writes what is typed at once
    await user.click(screen.getByText('Save'));
    await user.click(screen.getByText('it changed'));
    expect(screen.getByText(/You typed changes/)).toBeTruthy();
    answer('in force');
    await waitFor(() => expect(said).toEqual(['in force']));
    expect(screen.queryByText(/You typed changes/)).toBeNull();
    expect(localStorage.length).toBe(0);
  });
  it('is asked about before its page is left', async () => {
    const user = userEvent.setup();
    house('maren');
    await user.type(screen.getByLabelText('text'), 'x');
    await user.click(screen.getByText('elsewhere'));
    expect(screen.getByRole('dialog').textContent).toContain('not saved yet');
    await user.click(screen.getByRole('button', { name: 'Stay' }));
    expect((screen.getByLabelText('text') as HTMLInputElement).value).toBe('x');
    await user.click(screen.getByText('elsewhere'));
    await user.click(screen.getByRole('button', { name: 'Leave and keep it for later' }));
    expect(screen.getByText('another page')).toBeTruthy();
    cleanup();
    house('maren');
    expect(screen.getByText(/You typed changes/)).toBeTruthy();
  });
  it('asks nobody where nothing was changed or all is saved', async () => {
    const user = userEvent.setup();
    house('maren');
    await user.type(screen.getByLabelText('text'), 'x');
    await user.click(screen.getByText('Save'));
    await user.click(screen.getByText('elsewhere'));
    expect(screen.getByText('another page')).toBeTruthy();
  });
  it('is offered by no damaged store', () => {
    localStorage.setItem('jolly-typed|maren|part p1', '{');
    house('maren');
    expect(screen.queryByText(/You typed changes/)).toBeNull();
  });
});

describe('a thing that moved', () => {
  it('is said only where it did', () => {
    const { rerender } = render(<Moved was={{ version: 3 }} now={{ version: 3 }} />);
    expect(screen.queryByRole('status')).toBeNull();
    rerender(<Moved was={{ version: 3 }} now={{ version: 4 }} />);
    expect(screen.getByRole('status').textContent).toContain('Somebody changed it');
  });
});

describe('a table', () => {
  const rows = ['a', 'b', 'c'];
  function Table({ onOpen, onSort }: { onOpen: (row: string) => void; onSort: (key: string) => void }) {
    const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
    return (
      <DataTable
        label="Letters"
        rows={rows}
        columns={[
          { key: 'one', head: 'One', width: 100, sortable: true, cell: (r) => r },
          { key: 'two', head: 'Two', width: 100, cell: (r) => r + r },
          { key: 'three', head: 'Three', width: 100, sortable: true, cell: (r) => r },
        ]}
        rowKey={(r) => r}
        onOpen={onOpen}
        onSort={onSort}
        selected={selected}
        onSelect={setSelected}
      />
    );
  }
  it('is one stop of the Tab key, and all of it is reached by arrows', async () => {
    const user = userEvent.setup();
    const onOpen = vi.fn();
    const onSort = vi.fn();
    render(
      <>
        <Table onOpen={onOpen} onSort={onSort} />
        <button>after</button>
      </>,
    );
    const grid = screen.getByRole('grid', { name: 'Letters' });
    await user.tab();
    expect(document.activeElement).toBe(grid);
    await user.tab();
    expect(document.activeElement).toBe(screen.getByText('after'));
    await user.tab({ shift: true });
    const active = () => document.getElementById(grid.getAttribute('aria-activedescendant') ?? '');
    expect(active()?.textContent).toContain('a');
    await user.keyboard('{ArrowDown}{Enter}');
    expect(onOpen.mock.calls).toEqual([['b']]);
    await user.keyboard(' ');
    expect(within(grid).getByRole('row', { selected: true }).textContent).toContain('b');
    expect(screen.getByRole('status').textContent).toBe('Letters: 3 rows, 1 selected');
    await user.keyboard('{Home}{ArrowUp}'); // onto the heads: the box first
    expect(active()?.getAttribute('role')).toBe('columnheader');
    await user.keyboard(' ');
    expect(within(grid).getAllByRole('row', { selected: true })).toHaveLength(3);
    await user.keyboard('{ArrowRight}{ArrowRight}{ArrowRight}{Enter}'); // Two does not sort
    expect(onSort.mock.calls).toEqual([['three']]);
    await user.keyboard('{ArrowLeft} ');
    expect(onSort.mock.calls).toEqual([['three'], ['one']]);
    await user.keyboard('{ArrowDown}');
    expect(active()?.getAttribute('role')).toBe('row');
    expect(onOpen).toHaveBeenCalledOnce();
  });
});
