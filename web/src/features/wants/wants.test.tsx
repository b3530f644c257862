// @vitest-environment jsdom
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { service, show } from '../../ui/testing';
import { WantPage } from './WantPage';
import { WantsPage } from './WantsPage';

const want = {
  id: 'w1',
  number: 'W-00012',
  version: 4,
  what: 'regulator 3.3 V 500 mA',
  said: {
    facts: 'regulator 3.3 V 500 mA',
    manufacturer: 'Tidewright',
    mpn: 'TW-33',
    link: 'https://tidewright.example/33',
    quantity: 1200,
  },
  by: 'Iver',
  mine: false,
  state: 'open',
  asked: '2031-04-01T10:00:00Z',
  trail: [],
  look: {
    total: 2,
    parts: [
      { id: 'p1', number: 'EW-U-00001', description: 'REG 3.3V' },
      { id: 'p2', number: 'EW-U-00002', description: 'REG 3.3V', flag: 'Obsolete' },
    ],
    doubles: [{ id: 'w2', number: 'W-00013', by: 'Tove', what: 'TW-33', why: 'the same number' }],
  },
};
const librarian = ['want.make', 'want.settle', 'part.edit'];
const one = (may: string[], more: Partial<Omit<typeof want, 'mine'>> & { mine?: boolean } = {}) => {
  const sent = service(may, { '/wants/W-00012': { ...want, ...more }, 'POST /wants/w1/state': { ...want, ...more, state: 'answered' } });
  return { sent, at: (address = '/wants/W-00012') => show(<WantPage />, address, '/wants/:key') };
};

it('says what would do, what to keep an eye on, and who wants the same', async () => {
  one(['want.make']).at();
  expect(await screen.findByText('2 parts of the library would do')).toBeTruthy();
  expect(screen.getByText('Obsolete')).toBeTruthy();
  expect(screen.getByText('the same number')).toBeTruthy();
  expect(screen.getByText('1,200')).toBeTruthy();
  expect(screen.queryByRole('button', { name: 'It is this one' })).toBeNull(); // that is for librarians
  expect(screen.queryByRole('button', { name: /Decline/ })).toBeNull();
});

it('answers with the part that was pointed at, on the version that was looked at', async () => {
  const { sent, at } = one(librarian);
  at();
  await userEvent.click((await screen.findAllByRole('button', { name: 'It is this one' }))[1] as HTMLElement);
  expect(screen.getByLabelText(/^Part/)).toHaveProperty('value', 'EW-U-00002');
  await userEvent.click(screen.getByRole('button', { name: 'Answer' }));
  await waitFor(() =>
    expect(sent).toEqual([{ method: 'POST', path: '/wants/w1/state', match: '"4"', body: { state: 'answered', part: 'EW-U-00002' } }]),
  );
});

it('offers the part that was just made for it', async () => {
  const { at } = one(librarian);
  at('/wants/W-00012?part=EW-U-00077');
  expect(await screen.findByLabelText(/^Part/)).toHaveProperty('value', 'EW-U-00077');
});

it('carries everything that was said into the part that is made of it', async () => {
  one(librarian).at();
  const to = new URL((await screen.findByRole('link', { name: 'Make a part of it' })).getAttribute('href') ?? '', 'https://drawer.test');
  expect(to.searchParams.get('want')).toBe('W-00012');
  expect(to.searchParams.get('read')).toBe(
    'Manufacturer: Tidewright\nMPN: TW-33\nLink: https://tidewright.example/33\nregulator 3.3 V 500 mA',
  );
});

it('is declined only with a reason, and opened again by whoever wanted it', async () => {
  const { sent, at } = one(librarian);
  at();
  await userEvent.click(await screen.findByRole('button', { name: 'Decline…' }));
  await userEvent.click(screen.getByRole('button', { name: 'Decline' }));
  expect(sent).toEqual([]);
  await userEvent.type(screen.getByLabelText(/^Why/), 'too dear');
  await userEvent.click(screen.getByRole('button', { name: 'Decline' }));
  await waitFor(() => expect(sent.map((s) => s.body)).toEqual([{ state: 'declined', why: 'too dear' }]));
});

it.each([
  [['want.make'], 'answered', true, ['Not what was meant…']],
  [['want.make'], 'answered', false, []],
  [['want.make'], 'taken on', true, ['Let go']],
  [['want.make'], 'open', true, []],
  [librarian, 'open', false, ['Take it on', 'Decline…', 'Answer with a part…']],
  [librarian, 'taken on', false, ['Let go', 'Decline…', 'Answer with a part…']],
  [librarian, 'declined', false, ['Not what was meant…']],
])('offers %j of a want that is %s (own: %s) just %j', async (may, state, mine, buttons) => {
  one(may, { state, mine, look: undefined }).at();
  await screen.findByText('What is wanted');
  await waitFor(() =>
    expect(
      screen
        .queryAllByRole('button')
        .map((b) => b.textContent)
        .filter((b) => b !== ''),
    ).toEqual(buttons),
  );
});

const list = { page: { total: 1 }, counts: { open: 1, 'taken on': 2, answered: 1300, declined: 0 }, items: [want] };

it('lists what waits, and says how many there are of each', async () => {
  service(['want.make'], { '/wants': list });
  const router = show(<WantsPage />, '/wants', '/wants');
  expect(await screen.findByText('1 open · 2 taken on · 1,300 answered · 0 declined')).toBeTruthy();
  expect(screen.getByRole('grid', { name: 'Wants' })).toBeTruthy();
  await userEvent.selectOptions(screen.getByLabelText('Show'), 'answered');
  await userEvent.click(screen.getByRole('button', { name: /Only mine/ }));
  expect(router.state.location.search).toBe('?state=answered&mine=');
});

it('shows what would do while one asks, and loses nothing when the dialog is closed', async () => {
  const sent = service(['want.make'], { '/wants': list, 'POST /wants/look': want.look, 'POST /wants': { numbers: ['W-00014'] } });
  show(<WantsPage />, '/wants', '/wants');
  await userEvent.click(await screen.findByRole('button', { name: 'Want something…' }));
  await userEvent.type(screen.getByLabelText(/^Facts/), 'reg 3.3 V');
  expect(await screen.findByText('EW-U-00001')).toBeTruthy();
  await userEvent.keyboard('{Escape}');
  await userEvent.click(screen.getByRole('button', { name: 'Want something…' }));
  await userEvent.click(await screen.findByRole('button', { name: 'Go on with them' }));
  expect(screen.getByLabelText(/^Facts/)).toHaveProperty('value', 'reg 3.3 V');
  await userEvent.type(screen.getByLabelText('How many'), '40');
  await userEvent.click(screen.getByRole('button', { name: 'Want it' }));
  await waitFor(() =>
    expect(sent.filter((s) => s.path === '/wants').map((s) => s.body)).toEqual([{ wants: [{ facts: 'reg 3.3 V', quantity: 40 }] }]),
  );
});

it('says in an empty list what a want is', async () => {
  service([], { '/wants': { ...list, counts: {}, items: [] } });
  show(<WantsPage />, '/wants', '/wants');
  const empty = await screen.findByText('Nothing is wanted');
  expect(within(empty.parentElement as HTMLElement).getByRole('link', { name: 'BOM' })).toBeTruthy();
  expect(screen.queryByRole('button', { name: 'Want something…' })).toBeNull();
});
