// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { MemoryRouter } from 'react-router';
import { expect, it, vi } from 'vitest';
import { Toasts } from '../../ui/toast';
import { BackDialog, Revisions } from './Revisions';
import type { Part } from './queries';

const part = {
  id: 'p1',
  number: 'EW-R-00045',
  version: 7,
  revision: 2,
  revisions: [
    { number: 2, label: '2', state: { meaning: 'in use' }, note: 'finer', by: 'Maren', at: '2031-04-02T10:00:00Z' },
    {
      number: 1,
      label: '1',
      state: { meaning: 'superseded', word: 'Superseded', use: 'with caution', shape: 'bar' },
      note: 'first',
      by: 'Maren',
      at: '2031-04-01T10:00:00Z',
    },
  ],
} as unknown as Part;
const edited = { ...part, draft: { values: [] } } as unknown as Part;

/** What the service was asked for, with the answers to changes, in order. */
function service(...answers: { status: number; body: unknown }[]) {
  const sent: { match: string | null; body: unknown }[] = [];
  const json = (status: number, body: unknown) =>
    new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } });
  vi.stubGlobal('fetch', async (r: Request) => {
    const path = new URL(r.url).pathname;
    if (path === '/api/v1/me') return json(200, { login: 'maren', may: ['part.edit'], csrf: 'x' });
    if (r.method === 'GET') return json(200, { from: 0, to: 1, changes: [{ path: 'values.power', old: '100 mW', new: '250 mW' }] });
    sent.push({ match: r.headers.get('If-Match'), body: JSON.parse(await r.text()) });
    const a = answers.shift() ?? { status: 200, body: { ...edited, version: 8 } };
    return json(a.status, a.body);
  });
  return sent;
}

function show(node: React.ReactNode) {
  return render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <MemoryRouter>
        <Toasts>{node}</Toasts>
      </MemoryRouter>
    </QueryClientProvider>,
  );
}

it('offers to go back to what is not in use, and to that where a draft stands beside it', async () => {
  service();
  const onBack = vi.fn();
  const { unmount } = show(<Revisions part={part} onCompare={() => {}} onBack={onBack} />);
  await userEvent.click(await screen.findByRole('button', { name: 'Make revision 1 the draft again' }));
  expect(onBack).toHaveBeenCalledWith(1);
  expect(screen.queryByRole('button', { name: 'Discard the draft' })).toBeNull();
  unmount();
  show(<Revisions part={edited} onCompare={() => {}} onBack={onBack} />);
  expect(await screen.findByRole('button', { name: 'Discard the draft' })).toBeTruthy();
});

it('shows what would change, wants a word for the draft that goes, and sends the version that was seen', async () => {
  const sent = service();
  const onClose = vi.fn();
  show(<BackDialog part={edited} revision={1} onClose={onClose} />);
  expect((await screen.findByRole('table')).textContent).toContain('100 mW250 mW');
  await userEvent.type(screen.getByLabelText(/^Why/), 'a mistake');
  await userEvent.click(screen.getByRole('button', { name: 'Make it the draft' }));
  expect(sent).toEqual([]); // the draft has no leave to go yet
  await userEvent.click(screen.getByLabelText('The draft that is there may go'));
  await userEvent.click(screen.getByRole('button', { name: 'Make it the draft' }));
  await vi.waitFor(() => expect(onClose).toHaveBeenCalled());
  expect(sent).toEqual([{ match: '"7"', body: { revision: 1, why: 'a mistake', replaceDraft: true, leaveOut: false } }]);
});

it('names the values that have no place any more, and leaves them out only when told', async () => {
  const refusal = {
    type: '/problems/values-without-place',
    title: 'x',
    status: 422,
    detail: 'Values have no place: colour red.',
    mend: 'Say so.',
  };
  const sent = service({ status: 422, body: refusal });
  const onClose = vi.fn();
  show(<BackDialog part={part} revision={1} onClose={onClose} />);
  await userEvent.click(screen.getByRole('button', { name: 'Make it the draft' }));
  expect(await screen.findByText(/colour red/)).toBeTruthy();
  expect(onClose).not.toHaveBeenCalled();
  await userEvent.click(await screen.findByLabelText('These values may be left out'));
  await userEvent.click(screen.getByRole('button', { name: 'Make it the draft' }));
  await vi.waitFor(() => expect(onClose).toHaveBeenCalled());
  expect(sent.map((s) => (s.body as { leaveOut: boolean }).leaveOut)).toEqual([false, true]);
});
