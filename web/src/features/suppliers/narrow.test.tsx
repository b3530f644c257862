// @vitest-environment jsdom
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { service, show, tall } from '../../ui/testing';
import { OfferNewsPage } from './OfferNewsPage';
import { SuppliersPage } from './SuppliersPage';

const row = (mpn: string, fails: string[] = []) => ({
  key: mpn,
  manufacturer: 'Grebe Resistive',
  mpn,
  drawer: 'chip-resistors',
  label: 'Chip resistors',
  description: 'RES',
  values: { resistance: '4.7 kΩ' },
  fails,
  own: [],
  states: [],
  models: [],
  differ: [],
  stock: 10,
  offers: [],
});

const none = { state: 1, done: true, facts: [], suppliers: [], own: [], ownTotal: 0, facets: [], drawers: {}, hidden: 0 };

it('filters and sorts the answers in the address, and begins anew with another question', async () => {
  tall();
  const user = userEvent.setup();
  const sent = service(['supplier.ask'], {
    'POST /supplier-questions': {
      state: 1,
      done: true,
      facts: [],
      suppliers: [],
      own: [],
      ownTotal: 0,
      rows: [row('GR1')],
      total: 3,
      hidden: 2,
      fit: 3,
      facets: [{ key: 'case', label: 'Case', type: 'text', values: [{ value: '0805', parts: 1 }], steps: [], more: 0, blank: 2 }],
      drawers: { 'chip-resistors': 3 },
    },
    '/cabinet': {
      document: { parameters: [] },
      drawers: [
        {
          key: 'chip-resistors',
          label: 'Chip resistors',
          leaf: true,
          columns: ['resistance'],
          slots: [{ key: 'resistance', label: 'Resistance', type: 'measure' }],
        },
      ],
    },
  });
  const router = show(<SuppliersPage />, '/suppliers?q=4k7&f=case:0805&sort=-resistance', '/suppliers');
  await screen.findByText(/2 are hidden by the filters/);
  expect(sent[0]?.body).toMatchObject({ text: '4k7', filters: { case: ['0805'] }, sort: ['-resistance'] });
  expect(screen.getByRole('columnheader', { name: /Resistance/ })).toBeTruthy();
  await user.click(screen.getByRole('button', { name: '□ Filters (1)' }));
  const aside = screen.getByRole('complementary', { name: 'Filters' });
  await user.click(within(aside).getByRole('checkbox', { name: /blank/ }));
  await waitFor(() => expect(sent.at(-1)?.body).toMatchObject({ filters: { case: ['0805', '-'] } }));
  await user.click(within(screen.getByRole('columnheader', { name: /Resistance/ })).getByText(/Resistance/));
  await waitFor(() => expect(router.state.location.search).not.toContain('sort='));
  await user.clear(screen.getByLabelText('What is looked for'));
  await user.type(screen.getByLabelText('What is looked for'), '10k{Enter}');
  await waitFor(() => expect(sent.at(-1)?.body).toMatchObject({ text: '10k' }));
  expect(sent.at(-1)?.body).not.toHaveProperty('filters');
});

it('begins with the usual limits of the kind, and keeps what is said instead', async () => {
  tall();
  const user = userEvent.setup();
  const sent = service(['supplier.ask'], {
    '/supplier-limits': {
      drawer: 'resistors',
      label: 'Resistors',
      kept: true,
      pieces: 250,
      stock: 500,
      inProduction: true,
      packing: 'reel',
    },
    'POST /supplier-limits': {},
    'POST /supplier-questions': { ...none, rows: [], total: 0, fit: 0 },
    '/cabinet': { document: { parameters: [] }, drawers: [] },
  });
  show(<SuppliersPage />, '/suppliers?q=4k7', '/suppliers');
  expect(await screen.findByText('Your usual limits of Resistors')).toBeTruthy();
  await waitFor(() => expect(sent.filter((x) => x.path === '/supplier-questions')).toHaveLength(1));
  expect(sent.find((x) => x.path === '/supplier-questions')?.body).toMatchObject({
    pieces: 250,
    stock: 500,
    inProduction: true,
    packing: 'reel',
  });
  await user.clear(screen.getByLabelText('Pieces'));
  await user.type(screen.getByLabelText('Pieces'), '40{Enter}');
  await waitFor(() =>
    expect(sent.find((x) => x.path === '/supplier-limits' && x.body)?.body).toMatchObject({ text: '4k7', pieces: 40, stock: 500 }),
  );
  await waitFor(() => expect(sent.at(-1)?.body).toMatchObject({ pieces: 40, text: '4k7' }));
});

it('makes an intake of several products', async () => {
  tall();
  const user = userEvent.setup();
  const sent = service(['supplier.ask', 'intake.edit'], {
    'POST /supplier-questions': { ...none, rows: [row('GR1'), row('GR2')], total: 2, fit: 2 },
    'POST /supplier-intakes': { items: [{ id: 'i1', number: 'IN-00009', supplier: 'Sandbar', products: 2 }] },
    '/cabinet': { document: { parameters: [] }, drawers: [] },
  });
  const router = show(<SuppliersPage />, '/suppliers?q=4k7', '/suppliers');
  await user.click(await screen.findByRole('checkbox', { name: 'Select row 1' }));
  expect(screen.queryByRole('button', { name: /Make an intake/ })).toBeNull();
  await user.click(screen.getByRole('checkbox', { name: 'Select row 2' }));
  await user.click(screen.getByRole('button', { name: 'Make an intake of 2' }));
  await waitFor(() => expect(router.state.location.pathname).toBe('/intakes/i1'));
  expect(sent.find((x) => x.path === '/supplier-intakes')?.body).toMatchObject({ keys: ['GR1', 'GR2'], question: { text: '4k7' } });
});

it('lists what suppliers say otherwise, of one kind if that is wanted, and takes what was seen to', async () => {
  tall();
  const user = userEvent.setup();
  const one = { supplier: 'Sandbar', number: 'SB-1', source: 'Grebe GR1', parts: ['EW-R-00044'], at: new Date().toISOString() };
  const sent = service(['part.edit'], {
    '/offers/news': {
      total: 2,
      items: [
        { ...one, id: 'a', what: 'state', says: 'the supplier says "over" of the product', propose: 'obsolete' },
        { ...one, id: 'b', what: 'price', says: '100 pieces cost 2 EUR and cost 9 EUR now' },
      ],
    },
    'POST /offers/news/settled': { settled: 1 },
  });
  show(<OfferNewsPage />, '/offers', '/offers');
  const grid = await screen.findByRole('grid', { name: 'News of offers' });
  expect(await within(grid).findByText(/says "over"/)).toBeTruthy();
  await user.selectOptions(screen.getByLabelText('Of'), 'price');
  expect(within(grid).queryByText(/says "over"/)).toBeNull();
  const boxes = within(grid).getAllByRole('checkbox', { name: /select/i });
  await user.click(boxes.at(-1) as HTMLElement);
  await user.click(screen.getByRole('button', { name: '1 seen to' }));
  await waitFor(() => expect(sent.at(-1)?.body).toEqual({ ids: ['b'] }));
  expect(await screen.findByText('One is seen to.')).toBeTruthy();
});
