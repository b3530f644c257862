// @vitest-environment jsdom
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { service, show, tall } from '../../ui/testing';
import { pageOfThing } from '../../ui/pages';
import { TrailPage } from './index';

tall();

const line = {
  at: '2026-03-01T10:00:00Z',
  by: 'Tove',
  kind: 'part',
  id: 'p1',
  number: 'EW-R-00001',
  drawer: 'chip-resistors',
  action: 'draft saved',
  says: 'Tove changed the draft of EW-R-00001.',
  changes: [
    { what: 'power', before: '125 mW', after: '250 mW' },
    { what: 'mounting', before: 'surface' },
  ],
  seq: 2,
  deed: 'd1',
  hash: 'ab',
};

test('an entry says what it changed, and leads to its thing', async () => {
  service([], { '/trail': { items: [line] } });
  const router = show(<TrailPage />, '/trail', '/trail');
  expect(await screen.findByText('power: 125 mW → 250 mW · mounting: surface → –')).toBeTruthy();
  await userEvent.click(screen.getByText(line.says));
  const dialog = await screen.findByRole('dialog');
  expect(within(dialog).getByRole('cell', { name: '250 mW' })).toBeTruthy();
  await userEvent.click(within(dialog).getByRole('button', { name: 'Go to EW-R-00001' }));
  expect(router.state.location.pathname).toBe('/parts/EW-R-00001');
});

test('what is asked for stands in the address, and in the export', async () => {
  service([], { '/trail': { items: [line] } });
  const router = show(<TrailPage />, '/trail?kind=part', '/trail');
  await userEvent.type(await screen.findByLabelText('By (sign-in name)'), 'tove');
  await userEvent.click(screen.getByRole('button', { name: 'Find' }));
  expect(router.state.location.search).toBe('?by=tove&kind=part');
  expect(screen.getByRole('link', { name: 'Export JSON Lines' }).getAttribute('href')).toBe(
    '/api/v1/trail-list?by=tove&kind=part&format=jsonl',
  );
  await userEvent.click(screen.getByRole('button', { name: 'All' }));
  expect(router.state.location.search).toBe('');
});

test('older entries are asked for where there are more', async () => {
  service([], { '/trail': { items: [line], next: 'x' } });
  show(<TrailPage />, '/trail', '/trail');
  expect(await screen.findByText(/1 entries so far/)).toBeTruthy();
  expect(screen.getByRole('button', { name: 'Older' })).toBeTruthy();
});

test('each kind of thing that has a page is led to', () => {
  const page = (kind: string) => pageOfThing({ kind, id: 'i', number: 'n 1' });
  expect(['part', 'want', 'model', 'bom', 'intake', 'delivery', 'cabinet', 'lifecycle', 'layout'].map(page)).toEqual([
    '/parts/n%201',
    '/wants/n%201',
    '/models/i',
    '/boms/i',
    '/intakes/i',
    '/deliveries/i',
    '/cabinet',
    '/lifecycles?name=n%201',
    undefined,
  ]);
});
