// @vitest-environment jsdom
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { Refusal, service, show, tall } from '../../ui/testing';
import type { Schemas } from '../../api/client';
import { ConnectionsPage } from './ConnectionsPage';
import { rowsOf } from './OfferChart';
import { OfferTable } from './OfferTable';
import { OffersPanel } from './OffersPanel';
import { SuppliersPage } from './SuppliersPage';
import { backWith } from '../../ui/back';
import { readQuestion } from './queries';

const offer = {
  supplier: 'Sandbar Parts Exchange',
  number: 'SB-1',
  seen: new Date().toISOString(),
  stock: 1200,
  buy: { pieces: 100, over: 40, total: '3.65 GBP', at: { from: 100, price: '0.0365 GBP' } },
  each: '0.0365 GBP',
  converted: '4.27 EUR',
  rate: '1 GBP = 1.1712 EUR on 2026-11-27',
};
const row = {
  key: 'GREBE|GR1',
  manufacturer: 'Grebe Resistive',
  mpn: 'GR1',
  drawer: 'chip-resistors',
  label: 'Chip resistors',
  description: 'RES 4.7kΩ',
  values: { resistance: '4.7 kΩ' },
  fails: [],
  own: [],
  stands: 'active',
  states: ['current'],
  models: [],
  differ: ['Tolerance: Northquay says ±1 %, Sandbar says ±5 %'],
  stock: 1200,
  offers: [offer],
};
const answers = {
  state: 4,
  done: true,
  facts: [],
  suppliers: [
    { supplier: 'Sandbar Parts Exchange', state: 'answered', products: 2, fit: 1 },
    { supplier: 'Marsh Lane', state: 'no answer', says: 'The price list of Marsh Lane was not fetched yet.', products: 0, fit: 0 },
  ],
  own: [
    {
      id: 'p1',
      number: 'EW-R-00044',
      drawer: 'chip-resistors',
      values: { resistance: '4.7 kΩ' },
      standing: 'active',
      manufacturer: 'T',
      mpn: 'TW',
    },
  ],
  ownTotal: 1,
  rows: [row, { ...row, key: 'GREBE|GR2', mpn: 'GR2', fails: ['“0805”'], differ: [], offers: [] }],
  total: 2,
  fit: 1,
};
const cabinet = {
  document: { parameters: [] },
  drawers: [
    {
      key: 'chip-resistors',
      label: 'Chip resistors',
      leaf: true,
      columns: [],
      slots: [
        { key: 'resistance', label: 'Resistance', required: true },
        { key: 'sea-rating', label: 'Sea rating', byHand: true, choices: ['deck', 'splash'] },
      ],
    },
  ],
};

it('asks with the limits that were said, shows what does not hold, and takes a product as a draft', async () => {
  tall();
  const user = userEvent.setup();
  const sent = service(['part.edit', 'supplier.ask'], {
    'POST /supplier-questions': answers,
    'POST /supplier-products': { part: { number: 'EW-R-00176' }, added: [], differ: ['Tolerance: ±1 % here, ±5 % there'], byHand: [] },
    '/cabinet': cabinet,
  });
  const router = show(<SuppliersPage />, '/suppliers', '/suppliers');
  expect(await screen.findByText(/Their answers come as they arrive/)).toBeTruthy();
  expect(sent).toHaveLength(0);
  await user.type(screen.getByLabelText('What is looked for'), '4k7 0805');
  await user.clear(screen.getByLabelText('Pieces'));
  await user.type(screen.getByLabelText('Pieces'), '60');
  await user.click(screen.getByRole('checkbox', { name: 'In production' }));
  await user.click(screen.getByRole('button', { name: 'Ask' }));
  await screen.findByText('1 product fits, of 2 that were answered with');
  expect(sent[0]?.body).toMatchObject({ text: '4k7 0805', pieces: 60, inProduction: true, seen: 0 });
  expect(router.state.location.search).toContain('pieces=60');
  expect(screen.getByText('The price list of Marsh Lane was not fetched yet.')).toBeTruthy();
  const grid = screen.getByRole('grid', { name: 'Products' });
  expect(within(grid).getByText('✕ “0805”')).toBeTruthy();
  await user.click(screen.getByRole('button', { name: '□ Only what fits' }));
  expect(within(grid).queryByText('✕ “0805”')).toBeNull();
  const beside = screen.getByRole('complementary', { name: 'The product that is looked at' });
  expect(within(beside).getByText(/Northquay says ±1 %/)).toBeTruthy();
  expect(within(beside).getByText('100 bought, 40 over')).toBeTruthy();
  await user.click(within(beside).getByRole('button', { name: 'Take as a draft…' }));
  await user.selectOptions(await screen.findByLabelText('Sea rating (by hand)'), 'deck');
  await user.click(screen.getByRole('button', { name: 'Make the draft' }));
  await screen.findByText('elsewhere');
  expect(sent.find((x) => x.path === '/supplier-products')?.body).toMatchObject({
    supplier: 'Sandbar Parts Exchange',
    number: 'SB-1',
    drawer: 'chip-resistors',
    values: { 'sea-rating': 'deck' },
  });
  expect(router.state.location.pathname).toBe('/parts/EW-R-00176');
});

it('makes a product a source of a part, says why that cannot be, and compares with own parts', async () => {
  tall();
  const user = userEvent.setup();
  const sent = service(['part.edit', 'supplier.ask'], {
    'POST /supplier-questions': answers,
    'POST /supplier-products': new Refusal(422, 'other-kind', 'EW-R-00044 is in another drawer.'),
    '/cabinet': cabinet,
  });
  show(<SuppliersPage />, '/suppliers?q=4k7', '/suppliers');
  await user.click(await screen.findByRole('button', { name: 'As a source of a part…' }));
  expect((screen.getByLabelText('Part') as HTMLInputElement).value).toBe('EW-R-00044');
  await user.click(screen.getByRole('button', { name: 'Make it a source' }));
  expect(await screen.findByText(/is in another drawer/)).toBeTruthy();
  expect(sent.at(-1)?.body).toMatchObject({ into: 'EW-R-00044', number: 'SB-1' });
  await user.keyboard('{Escape}');
  await user.click(screen.getAllByRole('checkbox', { name: /select/i })[1] as HTMLElement);
  await user.click(await screen.findByRole('button', { name: /^Compare 1/ }));
  expect(await screen.findByText('own: T TW')).toBeTruthy();
});

it('shows offers with what became otherwise, and settles what is said of several packings at once', async () => {
  const user = userEvent.setup();
  const news = (id: string) => ({
    id,
    supplier: 'Sandbar',
    number: 'SB-1',
    source: 'Grebe GR1',
    parts: [],
    what: 'state',
    says: 'the supplier says "nrnd"',
    at: new Date().toISOString(),
    propose: 'obsolete',
  });
  let moved = 0;
  const sent = service(['part.edit', 'thing.move', 'offers.refresh'], {
    '/parts/EW-R-1/offers': {
      number: 'EW-R-1',
      pieces: 100,
      sources: [{ manufacturer: 'Grebe', mpn: 'GR1', offers: [offer] }],
      news: [news('n1'), news('n2')],
      best: offer,
      history: [],
    },
    'POST /offers/news/settled': { settled: 2 },
    'POST /offers/refresh': { id: 'j1', state: 'running' },
    '/jobs/j1': {
      id: 'j1',
      state: 'done',
      refreshed: { suppliers: [{ supplier: 'Marsh Lane', state: 'no answer', says: 'Marsh Lane is asked too often.' }], problems: [] },
    },
  });
  show(<OffersPanel number="EW-R-1" question="GR1" onMove={() => moved++} />);
  expect(await screen.findByText('4.27 EUR', { selector: 'strong' })).toBeTruthy();
  expect(screen.getAllByText(/the supplier says "nrnd"/)).toHaveLength(1);
  await user.click(screen.getByRole('button', { name: 'Move it to obsolete…' }));
  expect(moved).toBe(1);
  await user.click(screen.getByRole('button', { name: 'Seen to' }));
  await waitFor(() => expect(sent.at(-1)?.body).toEqual({ ids: ['n1', 'n2'] }));
  await user.click(screen.getByRole('button', { name: 'Refresh' }));
  await waitFor(() => expect(sent.at(-1)?.body).toEqual({ parts: ['EW-R-1'] }));
  expect(await screen.findByText('Marsh Lane is asked too often.')).toBeTruthy();
});

it('tries a document before it is kept, and says what nothing reads', async () => {
  tall();
  const user = userEvent.setup();
  const one = {
    id: 'c1',
    supplier: 'Reed',
    kind: 'asked',
    version: 4,
    revision: 4,
    updated: '',
    mapped: false,
    usedToday: 3,
    perDay: 10,
    secret: 'reed',
    secretAbsent: true,
  };
  const sent = service(['connection.apply', 'rates.apply'], {
    '/connections': { page: { offset: 0, limit: 200, total: 1 }, items: [one] },
    '/connections/Reed': { ...one, text: 'supplier: Reed\n' },
    'POST /connection-tries': {
      asked: 'GET https://reed.example/find',
      bytes: 120,
      products: 2,
      places: [{ place: 'product.state', path: '$.life', found: 0 }],
      problems: [],
      fields: [{ name: 'Smell', example: 'none' }],
      sample: [],
    },
    'PUT /connections': { ...one, version: 5, revision: 5 },
  });
  show(<ConnectionsPage />, '/connections?of=Reed', '/connections');
  expect(await screen.findByText('reed, missing')).toBeTruthy();
  const doc = await screen.findByLabelText('Connection to Reed, revision 4');
  await user.type(doc, 'currency: EUR');
  await user.click(screen.getByRole('button', { name: 'Try it' }));
  expect(await screen.findByText('nowhere')).toBeTruthy();
  expect(screen.getByText('not read')).toBeTruthy();
  await user.click(screen.getByRole('button', { name: 'Keep it' }));
  await screen.findByText('The connection to Reed is kept, revision 5.');
  const kept = sent.at(-1);
  expect(kept?.match).toContain('4');
  expect(kept?.body).toEqual({ text: 'supplier: Reed\ncurrency: EUR' });
});

it('reads the question of an address within bounds, and goes back only to a want or a board', () => {
  const at = (q: string) => new URLSearchParams(q);
  expect(readQuestion(at('q= 4k7 &pieces=-1&stock=1e99&production=yes'), { pieces: 7 })).toMatchObject({
    text: '4k7',
    pieces: 7,
    stock: 0,
    inProduction: true,
  });
  for (const [back, to] of [
    ['/wants/W-00001', '/wants/W-00001?part=EW-1'],
    ['/boms/Tide%20logger', '/boms/Tide%20logger?part=EW-1'],
    ['https://elsewhere.example', '/parts/EW-1'],
    ['//elsewhere.example', '/parts/EW-1'],
    ['/wants/../people', '/parts/EW-1'],
    ['', '/parts/EW-1'],
  ])
    expect(backWith(at(`back=${encodeURIComponent(back ?? '')}`), 'EW-1')).toBe(to);
});

it('shows prices whose time is over as ended, with the day, and no sum', () => {
  const over = {
    supplier: 'Corner Shop',
    number: 'C1',
    seen: new Date().toISOString(),
    stock: 700,
    until: '2026-10-31',
    ended: true,
    breaks: [{ from: 1, price: '0.05 EUR' }],
  };
  show(<OfferTable label="Offers" offers={[over, { ...over, number: 'C2', ended: undefined, until: '2099-12-31' }]} pieces={100} />);
  const rows = screen.getAllByRole('row').map((r) => r.textContent ?? '');
  expect(rows[1]).toContain('ended 2026-10-31');
  expect(rows[1]).toContain('its prices held until 2026-10-31');
  expect(rows[2]).toContain('prices until 2099-12-31');
  expect(rows[2]).not.toContain('ended');
});

it('draws an offer as it was said last, until something else is said', () => {
  const p = (at: number, supplier: string, stock?: number): Schemas['OfferPoint'] => ({
    at: new Date(at).toISOString(),
    supplier,
    number: '1',
    stock,
  });
  const { rows, names } = rowsOf([p(1, 'A', 5), p(2, 'B', 9), p(3, 'A', 4), p(4, 'A', undefined)], (x) => x.stock);
  expect(names).toEqual(['A 1', 'B 1']);
  expect(rows).toEqual([{ at: 1, 'A 1': 5 }, { at: 2, 'A 1': 5, 'B 1': 9 }, { at: 3, 'A 1': 4, 'B 1': 9 }, { at: 4, 'B 1': 9 }]); // prettier-ignore
});
