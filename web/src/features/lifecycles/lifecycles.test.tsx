// @vitest-environment jsdom
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { service as answering, show, type Sent } from '../../ui/testing';
import { waited } from '../../ui/waited';
import { LifecyclesPage } from './LifecyclesPage';
import { LifePanel, MoveButtons } from './LifePanel';
import { QueuePage } from './QueuePage';
import { ReviewPage } from './ReviewPage';

const state = (word: string, use = 'yes', meaning = 'in use') => ({
  key: word.toLowerCase(),
  word,
  use,
  meaning,
  shape: 'disc',
  forbids: [],
});
const life = {
  id: 'p1',
  version: 7,
  states: {
    lifecycle: 'parts',
    label: 'B',
    status: state('Afloat'),
    draft: state('On the bench', 'with caution', 'draft'),
    standing: state('Active'),
  },
  authors: ['Tove'],
  moves: [
    {
      key: 'release',
      label: 'Launch',
      to: state('Afloat'),
      who: 'engineer, not an author',
      note: true,
      releases: true,
      gates: [
        { gate: 'sources', holds: false, why: 'there is no source', mend: 'add one', waive: 'librarian', looked: 'x', about: '' },
        { gate: 'review', holds: true, why: '', looked: 'y', about: '' },
      ],
    },
    {
      key: 'ask for review',
      label: 'Pass on',
      to: state('At the desk', 'with caution', 'in review'),
      who: 'engineer',
      note: false,
      gates: [],
    },
    {
      key: 'withdraw',
      label: 'Haul out',
      to: state('Hauled out', 'no', 'withdrawn'),
      who: 'librarian',
      not: 'That is for librarians.',
      note: true,
      gates: [],
    },
  ],
  waivers: [{ thing: 'EW-U-00001', gate: 'datasheet', why: 'it is coming', by: 'Maren', at: '2031-04-01T10:00:00Z', fallen: true }],
  boards: 12,
  proofs: [],
};
const review = {
  id: 'p1',
  number: 'EW-U-00001',
  kind: 'part',
  version: 7,
  open: 1,
  items: [
    { key: 'values.voltage', label: 'Output voltage', text: '3.3 V', value: 'a', mine: false, by: [], changed: true },
    { key: 'description', label: 'Description', text: 'REG 3.3V', value: 'b', mine: true, by: ['Iver'], changed: false },
  ],
  signed: [],
  datasheets: [{ hash: 'h', name: 'reg.pdf' }],
};
const document = {
  format: 'jolly-lifecycle/1',
  name: 'parts',
  of: 'parts',
  counting: 'numbers',
  status: [
    { key: 'draft', word: 'Draft', meaning: 'draft', first: true, change: true, use: 'with caution', shape: 'ring' },
    { key: 'in review', word: 'In review', meaning: 'in review', use: 'with caution', shape: 'half' },
    { key: 'released', word: 'Released', meaning: 'in use', use: 'yes', shape: 'disc' },
  ],
  standing: [{ key: 'active', word: 'Active', first: true, use: 'yes', shape: 'disc' }],
  moves: [
    { key: 'ask', label: 'Ask', from: ['draft'], to: 'in review', who: { role: 'engineer' } },
    {
      key: 'release',
      label: 'Release',
      from: ['draft', 'in review'],
      to: 'released',
      who: { role: 'librarian' },
      gates: [{ gate: 'required' }],
    },
  ],
};

/** A service that has one thing, its review list and its lifecycle. */
function service(may: string[], more: Record<string, unknown> = {}) {
  return answering(may, {
    '/things/p1/life': life,
    '/things/p1/review': review,
    '/queue': { page: { total: 0 }, items: [] },
    '/groups': { items: [] },
    '/waivers': { page: { total: 0 }, items: [] },
    '/lifecycles': { items: [{ name: 'parts', of: 'parts', revision: 0, version: 3, shipped: true, drawers: [], text: '', document }] },
    'POST /things/p1/waiver': life,
    'POST /things/p1/review/ticks': review,
    'POST /things/p1/review/signature': review,
    'POST /moves': { things: 1, left: 0, numbers: [], holders: [] },
    ...more,
  });
}

/** The document that was sent. */
const sentDocument = <T,>(s: Sent | undefined) => JSON.parse((s?.body as { text: string }).text) as T;

it('shows what keeps a thing from going on, and offers a waiver only for what may be waived', async () => {
  service(['thing.move', 'thing.review']);
  show(<LifePanel id="p1" name="EW-U-00001" />);
  expect(await screen.findByText('there is no source')).toBeTruthy();
  expect(screen.getByText('That is for librarians.')).toBeTruthy();
  expect(screen.getByText('worked on 12 boards')).toBeTruthy();
  expect(screen.getByText('waiver fallen')).toBeTruthy();
  expect(screen.getAllByRole('button', { name: 'Waive…' })).toHaveLength(1);
});

it('waives a gate on the version that was looked at', async () => {
  const sent = service(['thing.move']);
  show(<LifePanel id="p1" name="EW-U-00001" />);
  await userEvent.click(await screen.findByRole('button', { name: 'Waive…' }));
  await userEvent.type(screen.getByLabelText('Why it may pass'), 'one maker');
  await userEvent.click(screen.getByRole('button', { name: 'Waive' }));
  await waitFor(() =>
    expect(sent).toMatchObject([{ path: '/things/p1/waiver', match: '"7"', body: { gate: 'sources', why: 'one maker' } }]),
  );
});

it('offers the moves that one may make, and none whose gates are closed is sent', async () => {
  const sent = service(['thing.move']);
  show(<MoveButtons id="p1" name="EW-U-00001" />);
  await userEvent.click(await screen.findByRole('button', { name: 'Launch…' }));
  expect(screen.queryByRole('button', { name: 'Haul out…' })).toBeNull(); // nor would it be for whoever may: it stands in the panel
  expect(screen.getByRole('button', { name: 'Launch' })).toHaveProperty('disabled', true);
  await userEvent.keyboard('{Escape}');
  await userEvent.click(screen.getByRole('button', { name: 'Pass on…' }));
  await userEvent.click(screen.getByRole('button', { name: 'Pass on' }));
  await waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]).toMatchObject({ path: '/moves', body: { move: 'ask for review', things: [{ id: 'p1', version: 7 }] } });
});

it('ticks the active item with the space bar and names the version', async () => {
  const sent = service(['thing.review']);
  show(<ReviewPage />, '/review/p1', '/review/:id');
  const list = await screen.findByRole('listbox', { name: 'Review list' });
  expect(within(list).getByText('changed since it was ticked')).toBeTruthy();
  list.focus();
  await userEvent.keyboard(' ');
  await waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]).toEqual({
    method: 'POST',
    path: '/things/p1/review/ticks',
    match: '"7"',
    body: { items: ['values.voltage'], untick: false },
  });
  await userEvent.keyboard('{ArrowDown} ');
  await waitFor(() => expect(sent).toHaveLength(2));
  expect(sent[1]?.body).toEqual({ items: ['description'], untick: true });
});

it('asks whoever signs whether the open items were looked at', async () => {
  const sent = service(['thing.review']);
  show(<ReviewPage />, '/review/p1', '/review/:id');
  await userEvent.click(await screen.findByRole('button', { name: 'Sign…' }));
  const against = screen.getByLabelText('Laid beside');
  expect(against).toHaveProperty('value', 'reg.pdf, page 1');
  await userEvent.type(against, ' and 2');
  await userEvent.click(screen.getByRole('checkbox', { name: 'I looked at the 1 open item too' }));
  await userEvent.click(screen.getByRole('button', { name: 'Sign' }));
  await waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]).toEqual({
    method: 'POST',
    path: '/things/p1/review/signature',
    match: '"7"',
    body: { against: 'reg.pdf, page 1 and 2', all: true },
  });
});

it('says in an empty queue what would come there', async () => {
  service([]);
  show(<QueuePage />);
  expect(await screen.findByText('Nothing waits for you')).toBeTruthy();
  await userEvent.click(screen.getByRole('button', { name: 'Show everything' }));
  expect(await screen.findByText('Nothing waits for a review')).toBeTruthy();
});

it.each([
  [20 * 60_000, '20 min'],
  [5 * 3_600_000, '5 h'],
  [47 * 3_600_000, '47 h'],
  [72 * 3_600_000, '3 days'],
])('says how long something waits: %i ms', (ms, words) => {
  const now = Date.parse('2031-04-10T12:00:00Z');
  expect(waited(new Date(now - ms).toISOString(), now)).toBe(words);
});

it('takes a state away only with word of what its things become, and with its moves', async () => {
  const preview = { name: 'parts', version: 3, new: false, gone: [], added: [], moves: ['“Ask” is gone'] };
  const sent = service(['lifecycle.apply'], { 'POST /lifecycles/preview': preview });
  show(<LifecyclesPage />);
  await userEvent.click(await screen.findByRole('button', { name: 'Remove the state In review' }));
  expect(screen.getByText(/With it go the moves “Ask”/)).toBeTruthy();
  await userEvent.click(screen.getByRole('button', { name: 'Remove it from the table' }));
  await userEvent.click(screen.getByRole('button', { name: 'See what it changes…' }));
  await waitFor(() => expect(sent).toHaveLength(1));
  const doc = sentDocument<typeof document & { becomes: Record<string, string> }>(sent[0]);
  expect(doc.becomes).toEqual({ 'in review': 'draft' });
  expect(doc.status.map((s) => s.key)).toEqual(['draft', 'released']);
  expect(doc.moves.map((m) => [m.key, m.from])).toEqual([['release', ['draft']]]);
  await userEvent.click(await screen.findByRole('button', { name: 'Put it in force' }));
  await waitFor(() => expect(sent).toHaveLength(2));
  expect(sent[1]).toMatchObject({ path: '/lifecycles', match: '"3"' });
});

it('puts a gate and who may waive it on a move', async () => {
  const sent = service(['lifecycle.apply'], { 'POST /lifecycles/preview': { name: 'parts', version: 3, gone: [], added: [], moves: [] } });
  show(<LifecyclesPage />);
  await userEvent.click((await screen.findAllByRole('button', { name: /^Release/ }))[0] as HTMLElement);
  await userEvent.click(screen.getByRole('checkbox', { name: /^sources/ }));
  await userEvent.type(screen.getByLabelText('sources: at least'), '2');
  await userEvent.selectOptions(screen.getByLabelText('sources: who may waive it'), 'librarian');
  await userEvent.click(screen.getByRole('button', { name: 'Take it into the table' }));
  await userEvent.click(screen.getByRole('button', { name: 'See what it changes…' }));
  await waitFor(() => expect(sent).toHaveLength(1));
  const doc = sentDocument<{ moves: { key: string; gates?: unknown }[] }>(sent[0]);
  expect(doc.moves.find((m) => m.key === 'release')?.gates).toEqual([
    { gate: 'required' },
    { gate: 'sources', with: { 'at least': '2' }, waive: { role: 'librarian' } },
  ]);
});

it('lets nobody edit who may not', async () => {
  service(['thing.move']);
  show(<LifecyclesPage />);
  expect(await screen.findAllByText('Release')).toHaveLength(4); // in the table, and in the picture of it
  expect(screen.queryByRole('button', { name: 'Add a state…' })).toBeNull();
  expect(screen.queryByRole('button', { name: /A move from/ })).toBeNull();
});
