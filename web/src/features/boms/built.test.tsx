// @vitest-environment jsdom
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { service, show, tall } from '../../ui/testing';
import { RevisionPage } from './RevisionPage';

tall();

const build = (proved: number) => ({
  id: 'x1',
  boards: 40,
  which: 'lot 7',
  variant: 'Harbour',
  by: 'Maren',
  at: '2026-11-29T12:00:00Z',
  proved,
});
const revision = (builds: unknown[]) => ({
  id: 'b1', revision: 1, label: '1', state: { key: 'released', word: 'Frozen', meaning: 'in use', use: 'yes', shape: 'disc' }, note: 'first', by: 'Maren', at: '2026-11-29T12:00:00Z', hash: 'abc', before: '', name: 'Lamp', fileName: 'lamp.csv', fileHash: '', build: 40, variants: ['Harbour', 'Open sea'], variant: 'Harbour',
  lines: [{ row: 2, designators: ['R1'], quantity: 1, in: ['Harbour'], part: { id: 'p1', number: 'EW-R-1', revision: 1, description: 'RES' } }], behind: [], builds,
}); // prettier-ignore
const item = (id: string, kind: string, proved: boolean) => ({
  kind,
  id,
  name: `EW-${id}`,
  says: '',
  revision: '1',
  newest: id !== 'm1',
  used: ['R1'],
  boards: proved ? 40 : 0,
  proved,
});

it('notes that boards were built, and confirms what they prove but for what is not ticked', async () => {
  const user = userEvent.setup();
  const items = [item('p1', 'part', false), item('m1', 'model', false), item('m2', 'model', true)];
  const sent = service(['bom.freeze', 'thing.review'], {
    '/boms/Lamp/revisions/1': revision([]),
    'POST /boms/Lamp/revisions/1/builds': revision([build(1)]),
    '/boms/Lamp/revisions/1/builds/x1': { bom: 'Lamp', revision: 1, build: build(1), items },
    'POST /boms/Lamp/revisions/1/builds/x1': { bom: 'Lamp', revision: 1, build: build(2), items },
  });
  show(<RevisionPage />, '/boms/Lamp/revisions/1', '/boms/:key/revisions/:revision');
  await user.click(await screen.findByRole('button', { name: 'It was built…' }));
  const note = screen.getByRole('button', { name: 'Note it' });
  expect((note as HTMLButtonElement).disabled).toBe(true);
  await user.type(screen.getByLabelText(/Which boards/), 'lot 7');
  await user.click(note);
  await waitFor(() => expect(sent.at(-1)?.body).toEqual({ boards: 40, which: 'lot 7', variant: 'Harbour' }));
  expect(await screen.findByText(/1 of 3 exact/)).toBeTruthy();
  expect(screen.getByText('not the newest')).toBeTruthy();
  await user.click(screen.getByLabelText('EW-m1 revision 1 worked'));
  await user.click(screen.getByRole('button', { name: 'Confirm that 1 worked' }));
  await waitFor(() => expect(sent.at(-1)?.body).toEqual({ things: ['p1'] }));
  expect(await screen.findByText('1 exact revision is proved.')).toBeTruthy();
});

it('shows who may only read what was built, and nothing to confirm', async () => {
  const user = userEvent.setup();
  service([], {
    '/boms/Lamp/revisions/1': revision([build(0)]),
    '/boms/Lamp/revisions/1/builds/x1': { bom: 'Lamp', revision: 1, build: build(0), items: [item('p1', 'part', false)] },
  });
  show(<RevisionPage />, '/boms/Lamp/revisions/1', '/boms/:key/revisions/:revision');
  await user.click(await screen.findByRole('button', { name: 'What it proves…' }));
  expect(((await screen.findByLabelText('EW-p1 revision 1 worked')) as HTMLInputElement).disabled).toBe(true);
  expect(screen.queryByRole('button', { name: /Confirm that/ })).toBeNull();
  expect(screen.queryByRole('button', { name: 'It was built…' })).toBeNull();
});
