// @vitest-environment jsdom
import { render, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { Looked } from '../../ui/looked';
import { service, show } from '../../ui/testing';
import { ForAccount } from '../../ui/unsaved';
import { WorklistPage } from '.';

const item = (kind: string, id: string, name: string, more = {}) => ({ kind, id, name, what: 'x', since: '2031-04-01T10:00:00Z', ...more });
const kinds = [
  { key: 'reviews', title: 'To review', total: 1200, atLeast: true, items: [item('review', 'p1', 'EW-U-00001', { remark: 'yours' })] },
  { key: 'wants', title: 'Wants', total: 1, items: [item('want', 'w1', 'W-00012')] },
  { key: 'intakes', title: 'Intakes', total: 1, items: [item('intake', 'i1', 'list.csv')] },
  { key: 'drafts', title: 'Drafts', total: 2, items: [item('part', 'p2', 'EW R/2'), item('model', 'm1', 'SOT-23')] },
  { key: 'boms', title: 'BOMs', total: 1, items: [item('bom', 'b1', 'Tide gauge B')] },
];
const cabinet = { version: 3, drawers: [{ key: 'r', label: 'Resistors', path: ['r'] }] };

it('leads from each thing that waits to where it is worked on', async () => {
  service([], { '/worklist': { kinds }, '/cabinet': cabinet });
  show(<WorklistPage />);
  await screen.findByText('To review (1,200 or more)');
  const to = Object.fromEntries(screen.getAllByRole('link').map((l) => [l.textContent, l.getAttribute('href')]));
  expect(to).toEqual({
    'All 1,200 or more': '/queue',
    'All 2': undefined,
    'EW-U-00001': '/review/p1',
    'W-00012': '/wants/W-00012',
    'list.csv': '/intakes/i1',
    'EW R/2': '/parts/EW%20R%2F2',
    'SOT-23': '/models/m1',
    'Tide gauge B': '/boms/Tide%20gauge%20B',
  });
});

it('shows one kind that could not be read beside those that could', async () => {
  const broken = { key: 'wants', title: 'Wants', total: 0, items: [], problem: 'Wants cannot be read now: try again.' };
  service([], { '/worklist': { kinds: [broken, kinds[2]] }, '/cabinet': cabinet });
  show(<WorklistPage />);
  expect(await screen.findByText('Wants cannot be read now: try again.')).toBeTruthy();
  expect(screen.getByText('list.csv')).toBeTruthy();
});

it('says so where nothing waits', async () => {
  service([], { '/worklist': { kinds: [] }, '/cabinet': cabinet });
  show(<WorklistPage />);
  expect(await screen.findByText('Nothing waits for you')).toBeTruthy();
});

it('leads through the first steps of an empty library, on the version that was looked at', async () => {
  const sent = service(['cabinet.apply'], {
    '/worklist': { kinds: [] },
    '/cabinet': { version: 0, drawers: [] },
    'PUT /cabinet': { version: 1, drawers: [{}, {}] },
  });
  show(<WorklistPage />);
  await userEvent.click(await screen.findByRole('button', { name: 'Take the starter cabinet' }));
  await waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]).toMatchObject({ method: 'PUT', path: '/cabinet', match: '"0"' });
  expect(await screen.findByText('The starter cabinet is in force: 2 drawers.')).toBeTruthy();
});

it('tells whoever may not choose drawers who does', async () => {
  service([], { '/worklist': { kinds: [] }, '/cabinet': { version: 0, drawers: [] } });
  show(<WorklistPage />);
  expect(await screen.findByText('A librarian does this.')).toBeTruthy();
  expect(screen.queryByRole('button')).toBeNull();
});

it('shows what one looked at last, the latest first, and nobody else’s', async () => {
  const on = (account: string, node: React.ReactNode) => render(<ForAccount id={account}>{node}</ForAccount>);
  for (let n = 1; n <= 14; n++) on('a', <Looked kind="part" id={`p${n}`} number={`EW R/${n}`} what={`RES ${n} kΩ`} />);
  on('a', <Looked kind="bom" id="b1" number="Tide gauge B" what="51 lines" />);
  on('a', <Looked kind="part" id="p9" number="EW R/9" what="RES 9.1 kΩ" />);
  on('b', <Looked kind="part" id="x" number="SOMEBODY-ELSES" what="" />);
  service([], { '/worklist': { kinds: [] }, '/cabinet': cabinet });
  show(<WorklistPage />);
  const panel = (await screen.findByText('Looked at last')).closest('section');
  const links = within(panel as HTMLElement).getAllByRole('link');
  expect(links.map((l) => l.getAttribute('href')).slice(0, 3)).toEqual(['/parts/EW%20R%2F9', '/boms/b1', '/parts/EW%20R%2F14']);
  expect(links).toHaveLength(12);
  expect(screen.getByText('RES 9.1 kΩ')).toBeTruthy();
  expect(screen.queryByText('SOMEBODY-ELSES')).toBeNull();
});

it('shows no page for what was kept and cannot be read', async () => {
  localStorage.setItem('jolly-looked|a', '[1, {"id": 3}, null');
  service([], { '/worklist': { kinds: [] }, '/cabinet': cabinet });
  show(<WorklistPage />);
  expect(await screen.findByText('Nothing waits for you')).toBeTruthy();
});
