// @vitest-environment jsdom
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { service, show, tall } from '../../ui/testing';
import { NoticesPage } from './NoticesPage';
import { pageOf } from './queries';
import { ToldPanel } from './ToldPanel';
import { WatchButton } from './WatchButton';

tall();

const one = {
  id: 'n2',
  n: 12,
  at: '2026-03-01T10:00:00Z',
  title: 'Tove released EW-R-00001 as revision 2.',
  seen: false,
  why: 'You watch it.',
  things: [{ kind: 'part', id: 'p1', number: 'EW-R-00001' }],
};
const many = {
  ...one,
  id: 'n1',
  n: 11,
  title: 'Tove released 60 parts of Chip resistors.',
  why: 'Your group answers for Chip resistors.',
  things: [
    { kind: 'part', id: 'p1', number: 'EW-R-00001' },
    { kind: 'model', id: 'm1', number: 'symbol: Opamp' },
  ],
  more: 58,
};
const list = { items: [one, many], unread: 2, page: { total: 2, offset: 0, limit: 200 } };

test('a notice of one thing opens it, and is seen', async () => {
  const sent = service(['watch'], { '/notices': list, 'POST /notices/seen': { unread: 1 } });
  show(<NoticesPage />, '/notices', '/notices');
  await userEvent.click(await screen.findByText(one.title));
  await userEvent.keyboard('{Enter}');
  expect(await screen.findByText('elsewhere')).toBeTruthy();
  expect(sent).toEqual([{ method: 'POST', path: '/notices/seen', match: null, body: { ids: ['n2'] } }]);
});

test('a notice of many things names them, and says how many it does not', async () => {
  service(['watch'], { '/notices': list, 'POST /notices/seen': { unread: 1 } });
  show(<NoticesPage />, '/notices', '/notices');
  await userEvent.click(await screen.findByText(many.title));
  const dialog = await screen.findByRole('dialog');
  expect(within(dialog).getByRole('link', { name: 'EW-R-00001' }).getAttribute('href')).toBe('/parts/EW-R-00001');
  expect(within(dialog).getByRole('link', { name: 'symbol: Opamp' }).getAttribute('href')).toBe('/models/m1');
  expect(within(dialog).getByText('and 58 more')).toBeTruthy();
});

test('all is seen up to the newest that was shown, not beyond', async () => {
  const sent = service(['watch'], { '/notices': list, 'POST /notices/seen': { unread: 0 } });
  show(<NoticesPage />, '/notices', '/notices');
  await userEvent.click(await screen.findByRole('button', { name: 'All seen' }));
  expect(sent[0]?.body).toEqual({ upTo: 12 });
});

test('where nothing is new it says how one comes to hear of things', async () => {
  service(['watch'], { '/notices': { items: [], unread: 0, page: { total: 0, offset: 0, limit: 200 } } });
  show(<NoticesPage />, '/notices', '/notices');
  expect(await screen.findByText('Nothing new')).toBeTruthy();
  expect(screen.queryByRole('button', { name: 'All seen' })).toBeNull();
});

test('only a notice of one thing has a page of its own', () => {
  expect(pageOf(one)).toBe('/parts/EW-R-00001');
  expect(pageOf(many)).toBeUndefined();
  expect(pageOf({ things: one.things, more: 3 })).toBeUndefined();
  expect(pageOf({ things: [{ kind: 'bom', id: 'b1', number: 'Gauge' }] })).toBe('/boms/b1');
  expect(pageOf({ things: [{ kind: 'want', id: 'w', number: 'W-1' }] })).toBe('/wants/W-1');
  expect(pageOf({ things: [{ kind: 'cabinet', id: 'c', number: 'cabinet' }] })).toBeUndefined();
});

test('a watch that is on is ended, one that is off begins', async () => {
  const watch = { of: 'drawer', about: 'resistors', name: 'Resistors', since: '2026-01-01T00:00:00Z' };
  const sent = service(['watch'], { '/watches': { items: [watch] }, 'POST /watches': { items: [] }, 'POST /watches/end': { items: [] } });
  show(
    <>
      <WatchButton of="drawer" about="resistors" name="Resistors" />
      <WatchButton of="drawer" about="inductors" name="Inductors" />
    </>,
  );
  const on = await screen.findByRole('button', { name: /Watched/, pressed: true });
  await userEvent.click(on);
  await userEvent.click(screen.getByRole('button', { pressed: false }));
  expect(sent.map((s) => [s.path, s.body])).toEqual([
    ['/watches/end', { of: 'drawer', about: 'resistors' }],
    ['/watches', { of: 'drawer', about: 'inductors' }],
  ]);
});

test('how one is told is kept against the version that was seen', async () => {
  const told = { version: 3, rhythm: 'none', mails: false };
  const sent = service(['watch'], {
    '/told': told,
    '/sendings': { items: [], page: { total: 0, offset: 0, limit: 50 } },
    'PUT /told': { ...told, version: 4 },
  });
  show(<ToldPanel />);
  expect(await screen.findByText(/sends no mail/)).toBeTruthy();
  await userEvent.type(screen.getByLabelText('Mail to'), 'iver@estuary-watch.example');
  await userEvent.selectOptions(screen.getByLabelText('How often'), 'day');
  await userEvent.click(screen.getByRole('button', { name: 'Keep' }));
  expect(sent).toEqual([
    { method: 'PUT', path: '/told', match: '"3"', body: { mail: 'iver@estuary-watch.example', rhythm: 'day', hook: '', newKey: false } },
  ]);
});

test('what was set aside says why, and is tried again', async () => {
  const sent = service(['watch'], {
    '/told': { version: 1, rhythm: 'once', mail: 'a@b.example', mails: true },
    '/sendings': {
      items: [{ id: 's1', way: 'mail', whose: 'Iver', address: 'a@b.example', state: 'aside', tries: 8, problem: 'The mail server answered 451 not now.', made: '2026-01-01T00:00:00Z', due: '2026-01-01T00:00:00Z' }], // prettier-ignore
      page: { total: 1, offset: 0, limit: 50 },
    },
    'POST /sendings/s1/again': { items: [], page: { total: 0, offset: 0, limit: 50 } },
  });
  show(<ToldPanel />);
  expect(await screen.findByText('The mail server answered 451 not now.')).toBeTruthy();
  await userEvent.click(screen.getByRole('button', { name: 'Try again' }));
  expect(sent.map((s) => s.path)).toEqual(['/sendings/s1/again']);
});
