// @vitest-environment jsdom
import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { Refusal, service, show, tall } from '../../ui/testing';
import { sparesOf } from './BuyingDialog';
import { BomComparePage } from './ComparePage';
import { CostPage } from './CostPage';
import { ReadingsPage } from './ReadingsPage';
import { RevisionPage } from './RevisionPage';
import { RevisionsPage } from './RevisionsPage';

tall();

const hinderedBy = (lines: { verdict: string; part?: { revision: number } }[]) => {
  const open = lines.filter((l) => l.verdict !== 'linked' && l.verdict !== 'not fitted').length;
  const unreleased = lines.filter((l) => l.part?.revision === 0).length;
  return { ...(open && { open }), ...(unreleased && { unreleased }) };
};
const line = (row: number, verdict: string, revision = 1) => ({
  row, designators: [`R${String(row)}`], written: `R${String(row)}`, verdict, findings: [], options: [], evidence: [], tally: [],
  part: verdict === 'linked' ? { id: `p${String(row)}`, number: `EW-R-${String(row)}`, revision, description: 'RES', sources: [] } : undefined,
}); // prettier-ignore
const frozen = { key: 'released', word: 'Frozen', meaning: 'in use', use: 'yes', shape: 'disc', forbids: [], change: false, readout: false }; // prettier-ignore
const states = { lifecycle: 'boms', status: frozen, standing: { ...frozen, key: 'active', word: 'Active', meaning: '' }, label: '1' }; // prettier-ignore
const life = (moves: unknown[]) => ({ id: 'b1', version: 3, states, authors: [], mine: false, moves, waivers: [], boards: 0, proofs: [], revision: 0 }); // prettier-ignore
const freezing = { key: 'freeze', label: 'Freeze', to: frozen, who: 'engineer', note: true, releases: true, standing: false, gates: [] }; // prettier-ignore
const bom = (lines: ReturnType<typeof line>[], more = {}) => ({
  id: 'b1', name: 'Gauge', version: 3, states, build: 40, revision: 1, counts: {}, hindered: hinderedBy(lines), causes: [], skipped: [], columns: [], findings: 0, fileName: 'gauge.csv', variants: [], buying: { exclude: ['Isle'] }, lines, ...more,
}); // prettier-ignore
const revision = {
  revision: 1,
  label: '1',
  state: frozen,
  note: 'first build',
  by: 'Maren',
  at: '2026-11-29T12:00:00Z',
  hash: 'abcdef0123456789',
  before: '',
};
const pinned = (designators: string[], number?: string, rev = 1) => ({
  row: 2, designators, quantity: designators.length, value: '4k7', part: number ? { id: number, number, revision: rev, description: 'RES 4.7kΩ' } : undefined,
}); // prettier-ignore
const cost = {
  bom: 'b1', name: 'Gauge', rules: {}, boards: 40, currency: 'EUR', day: '2026-11-29', sum: '12.00 EUR', board: '0.30 EUR', sums: [], noRate: 0, suppliers: ['Creek', 'Isle'], exact: true, short: 1, leadDays: 12, shares: [{ drawer: 'resistors', kind: 'Resistors', parts: 1, sum: '12.00 EUR' }],
  ready: { lines: 2, linked: 1, released: 1, production: 0, several: 0, inStock: 0, models: 2, datasheet: 0 },
  bought: [{ part: 'p1', number: 'EW-R-1', description: 'RES', drawer: 'resistors', kind: 'Resistors', designators: ['R1'], takes: 40, spare: 2, supplier: 'Creek', supplierNumber: 'C1', manufacturer: 'T', mpn: 'T1', pieces: 50, over: 8, each: '0.24 EUR', total: '12.00 EUR', short: true, stock: 7, leadDays: 12 }],
  unbought: [{ part: '', number: '', description: '33k', designators: ['R2'], takes: 40, why: 'no record is linked' }],
  points: [{ boards: 1, sum: '1.00 EUR', board: '1.00 EUR', unbought: 1, noRate: 0, short: 0, suppliers: 1 }, { boards: 40, sum: '12.00 EUR', board: '0.30 EUR', unbought: 1, noRate: 0, short: 1, suppliers: 2 }],
}; // prettier-ignore

it('says what a build comes to, what is not in the sum and what is short, and works out another number of boards', async () => {
  const user = userEvent.setup();
  service(['bom.edit'], { '/boms/Gauge': bom([]), '/boms/Gauge/cost': cost });
  show(<CostPage />, '/boms/Gauge/cost', '/boms/:key/cost');
  expect(await screen.findByText('12.00 EUR', { selector: 'span' })).toBeTruthy();
  expect(screen.getByText('1 not in the sum')).toBeTruthy();
  expect(screen.getByText('1 short: the last comes in 12 days')).toBeTruthy();
  expect(screen.getByText(/no record is linked/)).toBeTruthy();
  expect(screen.getByText(/short: it has 7, more in 12 days; 2 spare/)).toBeTruthy();
  expect(screen.getByText('Ready, of 2 lines that are fitted')).toBeTruthy();
  const field = screen.getByLabelText('Boards');
  await user.clear(field);
  await user.type(field, '1x{Enter}');
  expect(screen.getByText(/From 1 to/)).toBeTruthy();
});

it('keeps how parts are bought on the version that was seen', async () => {
  const user = userEvent.setup();
  const sent = service(['bom.edit'], { '/boms/Gauge': bom([]), '/boms/Gauge/cost': cost, 'POST /boms/b1/buying': bom([]) });
  show(<CostPage />, '/boms/Gauge/cost', '/boms/:key/cost');
  await user.click(await screen.findByRole('button', { name: /How it is bought/ }));
  await user.click(await screen.findByLabelText(/Rather from few suppliers/));
  await user.type(screen.getByLabelText('Spare parts'), 'passives 2% 5');
  await user.click(screen.getByRole('button', { name: 'Keep' }));
  await waitFor(() =>
    expect(sent.at(-1)?.body).toEqual({
      few: true,
      firstOnly: false,
      prefer: [],
      exclude: ['Isle'],
      spares: [{ drawer: 'passives', percent: 2, pieces: 5 }],
    }),
  );
  expect(sent.at(-1)?.match).toBe('"3"');
});

it('reads spare parts, and says what is none', () => {
  expect(sparesOf('resistors 2% 5\n3%\nleds +4').spares).toEqual([
    { drawer: 'resistors', percent: 2, pieces: 5 },
    { drawer: undefined, percent: 3, pieces: 0 },
    { drawer: 'leds', percent: 0, pieces: 4 },
  ]);
  expect(sparesOf('resistors').wrong).toContain('resistors');
  expect(sparesOf('2% many').wrong).toBeTruthy();
  expect(sparesOf('').spares).toEqual([]);
});

it('freezes with a note, and asks for a reason only where something hinders it', async () => {
  const user = userEvent.setup();
  const lines = [line(2, 'linked'), line(3, 'proposed'), line(4, 'linked', 0), line(5, 'not fitted')];
  const sent = service(['bom.freeze'], {
    '/boms/Gauge': bom(lines),
    '/boms/Gauge/revisions': { items: [revision] },
    '/boms': { items: [] },
    'POST /boms/b1/freeze': new Refusal(422, 'not-to-freeze', 'Nothing was frozen; lines without a record: 1.'),
  });
  show(<RevisionsPage />, '/boms/Gauge/revisions', '/boms/:key/revisions');
  await user.click(await screen.findByRole('button', { name: 'Freeze…' }));
  const freeze = screen.getByRole('button', { name: 'Freeze' });
  await user.type(screen.getByLabelText('What it is for'), 'second build');
  expect((freeze as HTMLButtonElement).disabled).toBe(true);
  expect(screen.getByText(/1 line has no record, 1 record is not released/)).toBeTruthy();
  await user.type(screen.getByLabelText('Why it is frozen all the same'), 'by hand');
  await user.click(freeze);
  expect(await screen.findByText(/Nothing was frozen/)).toBeTruthy();
  expect((screen.getByLabelText('What it is for') as HTMLInputElement).value).toBe('second build');
  expect(sent.at(-1)?.body).toEqual({ note: 'second build', anyway: 'by hand' });
});

it('asks for no reason where nothing hinders it', async () => {
  const user = userEvent.setup();
  service(['bom.freeze'], {
    '/boms/Gauge': bom([line(2, 'linked')]),
    '/boms/Gauge/revisions': { items: [revision] },
    '/boms': { items: [] },
  });
  show(<RevisionsPage />, '/boms/Gauge/revisions', '/boms/:key/revisions');
  await user.click(await screen.findByRole('button', { name: 'Freeze…' }));
  expect(screen.queryByLabelText('Why it is frozen all the same')).toBeNull();
});

it('says what keeps a board from being frozen by its lifecycle, and how the next revision is counted', async () => {
  const user = userEvent.setup();
  const review = { gate: 'review', holds: false, why: 'nobody has reviewed it', mend: 'have it reviewed', looked: 'x', about: '', waived: false }; // prettier-ignore
  const small = { ...freezing, minor: true, asMinor: '1.1', asMajor: '2.0', because: 'every line has the part that it had' };
  let shut = true;
  const sent = service(['bom.freeze', 'thing.move'], {
    '/boms/Gauge': bom([line(2, 'linked')]),
    '/boms/Gauge/revisions': {
      items: [{ ...revision, label: 'A', state: { ...frozen, word: 'Withdrawn', use: 'no' }, why: 'R3 is wrong' }],
    },
    '/boms': { items: [] },
    '/things/b1/life': () => life([{ ...small, gates: shut ? [review] : [] }]),
    'POST /boms/b1/freeze': bom([line(2, 'linked')]),
  });
  const router = show(<RevisionsPage />, '/boms/Gauge/revisions?freeze', '/boms/:key/revisions');
  const keeps = await screen.findByRole('list', { name: 'What keeps it from it' });
  expect(keeps.textContent).toContain('nobody has reviewed it');
  await user.type(screen.getByLabelText('What it is for'), 'second');
  expect((screen.getByRole('button', { name: 'Freeze' }) as HTMLButtonElement).disabled).toBe(true);
  await user.keyboard('{Escape}');
  expect(router.state.location.search).toBe('');
  expect(screen.getByText('Withdrawn').closest('td')?.title).toBe('R3 is wrong');
  expect(screen.getByRole('link', { name: 'A' })).toBeTruthy();
  expect(screen.queryByRole('button', { name: 'Worked on a board…' })).toBeNull(); // that is said of a revision

  cleanup();
  shut = false;
  show(<RevisionsPage />, '/boms/Gauge/revisions', '/boms/:key/revisions');
  const [fromPanel] = await screen.findAllByRole('button', { name: 'Freeze…' });
  if (fromPanel) await user.click(fromPanel);
  await user.type(screen.getByLabelText('What it is for'), 'second');
  await user.selectOptions(await screen.findByLabelText('Counted as'), 'major: 2.0');
  await user.click(screen.getByRole('button', { name: 'Freeze' }));
  expect(await screen.findByText('Revision 1 of Gauge is frozen.')).toBeTruthy();
  expect(sent.at(-1)?.body).toEqual({ note: 'second', minor: false });
});

it('shows a revision as it was, and what became otherwise since', async () => {
  const user = userEvent.setup();
  service([], {
    '/boms/Gauge/revisions/1': {
      ...revision,
      id: 'b1',
      name: 'Gauge',
      fileName: 'gauge.csv',
      fileHash: '',
      anyway: 'the bench has it',
      lines: [pinned(['R1', 'R2'], 'EW-R-1'), { ...pinned(['R3']), row: 3 }],
      builds: [],
      behind: [{ row: 2, designators: ['R1'], pin: {}, number: 'EW-R-1', revision: 2, says: ['revision 2 is in use'] }],
    },
  });
  show(<RevisionPage />, '/boms/Gauge/revisions/1', '/boms/:key/revisions/:revision');
  expect(await screen.findByText(/revision 2 is in use/)).toBeTruthy();
  expect(screen.getByText('1 without a pin: the bench has it')).toBeTruthy();
  expect(screen.getByText('R3')).toBeTruthy();
  await user.click(screen.getByRole('button', { name: 'Only what is behind' }));
  expect(screen.queryByText('R3')).toBeNull();
});

it('shows what prices and stock make otherwise, on lines of boards that it takes too', async () => {
  const user = userEvent.setup();
  const part = (l: object) => ({ ...pinned(['A1/R1'], 'EW-R-1'), ...l });
  service([], {
    '/boms/Gauge/revisions/1': {
      ...revision,
      id: 'b1',
      name: 'Gauge',
      fileName: 'gauge.csv',
      fileHash: '',
      lines: [
        { ...pinned(['A1']), board: { id: 'b2', name: 'Head', revision: 1, label: '1', hash: '' }, assembly: true },
        part({ of: 'Head revision 1', part: { id: 'p1', number: 'EW-R-1', revision: 1, description: 'RES' } }),
        part({ of: 'Head revision 1', designators: ['A1/R2'], part: { id: 'p2', number: 'EW-R-2', revision: 1, description: 'RES' } }),
      ],
      builds: [],
      behind: [{ row: 2, designators: ['A1'], pin: {}, number: 'Head', revision: 2, says: ['revision 2 is frozen'] }],
      cost: { boards: 4, sum: '1.00 EUR', day: '2026-11-01', unbought: [] },
      now: { day: '2026-11-29', sum: '1.20 EUR', changes: [{ part: 'p2', number: 'EW-R-2', designators: ['A1/R2'], says: ['a piece is 0.30 EUR, and was 0.25 EUR'] }] },
    },
  }); // prettier-ignore
  show(<RevisionPage />, '/boms/Gauge/revisions/1', '/boms/:key/revisions/:revision');
  expect(await screen.findByText(/On 2026-11-29 they would come to 1.20 EUR: 1 part bought otherwise/)).toBeTruthy();
  expect(screen.getAllByText(/revision 2 is frozen/)).toHaveLength(1);
  expect(screen.getByText(/a piece is 0.30 EUR/)).toBeTruthy();
  expect(screen.getByText('A1/R1')).toBeTruthy();
  await user.click(screen.getByRole('button', { name: 'Only what is behind' }));
  expect(screen.queryByText('A1/R1')).toBeNull();
  expect(screen.getByText('A1/R2')).toBeTruthy();
});

it('lays two beside each other, by kind of change', async () => {
  const user = userEvent.setup();
  service([], {
    '/boms/Gauge/compare': {
      from: 'Gauge revision 1',
      to: 'Gauge as it is now',
      same: 7,
      boards: 40,
      before: { board: '3.44 EUR', missing: 2 },
      after: { board: '3.30 EUR', missing: 0 },
      changes: [
        { what: ['part', 'fitted'], designators: ['R1', 'R2'], before: pinned(['R1', 'R2'], 'EW-R-1'), after: { ...pinned(['R1', 'R2'], 'EW-R-9'), notFitted: true } },
        { what: ['added'], designators: ['C7'], after: pinned(['C7'], 'EW-C-7') },
      ],
      renumbered: [{ from: ['R7'], to: ['R70'], part: 'EW-R-3' }],
    },
  }); // prettier-ignore
  show(<BomComparePage />, '/boms/Gauge/compare?revision=1', '/boms/:key/compare');
  expect(await screen.findByText('Gauge revision 1 beside Gauge as it is now')).toBeTruthy();
  expect(screen.getByText(/a board of 40: 3.44 EUR without 2 that have no price, then 3.30 EUR/)).toBeTruthy();
  expect(screen.getByText(/R7 may be R70 by now/)).toBeTruthy();
  expect(screen.getByText(/EW-R-9 rev 1 RES 4.7kΩ, not fitted/)).toBeTruthy();
  await user.click(screen.getByRole('button', { name: /added 1/ }));
  expect(screen.queryByText(/EW-R-9/)).toBeNull();
  expect(screen.getByText('C7')).toBeTruthy();
});

it('lists what was taught, says what is void, and takes one back', async () => {
  const user = userEvent.setup();
  const reading = { id: 'r1.x', headings: ['Ref', 'Value'], origin: 'Harbour office', text: 'R · CAP-100N', part: 'EW-C-1', description: 'CAP', links: true, by: 'Maren', at: '2026-11-29T12:00:00Z', bom: 'Gauge' }; // prettier-ignore
  const sent = service(['bom.edit'], {
    '/boms': { page: { offset: 0, limit: 200, total: 0 }, items: [] },
    '/boms/Gauge': bom([], { origin: 'Harbour office' }),
    '/bom-readings': { page: { offset: 0, limit: 500, total: 2 }, items: [reading, { ...reading, id: 'r2.y', text: 'R · OLD', part: '', description: '', void: 'its part is no longer there' }] }, // prettier-ignore
    'POST /bom-readings/withdraw': { page: { offset: 0, limit: 50, total: 0 }, items: [] },
  });
  show(<ReadingsPage />, '/boms/Gauge/learned', '/boms/:key/learned');
  expect(await screen.findByText('R · CAP-100N')).toBeTruthy();
  expect(screen.getByText('Its files come from Harbour office')).toBeTruthy();
  expect(screen.getByText('void: its part is no longer there')).toBeTruthy();
  const [first] = screen.getAllByRole('button', { name: 'Take back' });
  if (first) await user.click(first);
  expect(await screen.findByText(/The reading is taken back/)).toBeTruthy();
  expect(sent.map((s) => s.body)).toEqual([{ id: 'r1.x' }]);
});
