// @vitest-environment jsdom
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { service, show } from '../../ui/testing';
import { Use } from './Deliveries';
import { LandMaker } from './LandMaker';
import { CompareDialog } from './ModelDialogs';
import { OtherLands } from './OtherLands';
import { SymbolMaker } from './SymbolMaker';
import { TwinsPage } from './TwinsPage';

const mayAll = ['model.edit', 'model.release', 'part.edit'];

const body = {
  key: '0.1',
  path: 'body.step',
  kind: 'body',
  name: 'SO8',
  what: '4.9 × 6 × 1.6 mm',
  same: [],
  findings: [],
  fit: {
    findings: [{ severity: 'error', cause: 'body-turned', what: 'it is turned by 90° or by 270°', mend: 'turn it' }],
    placings: [
      { what: 'turn it by 90°', place: { turnZ: '90' }, certain: false },
      { what: 'turn it by 270°', place: { turnZ: '270' }, certain: false },
    ],
  },
};
const delivery = {
  id: 'd1',
  number: 'DL-00001',
  version: 3,
  name: 'amp.zip',
  updated: '2031-04-01T10:00:00Z',
  count: 1,
  pinLists: [],
  files: [
    {
      path: 'so8.xml',
      hash: 'h',
      is: 'models',
      what: 'IPC-2581 with 1 land pattern.',
      wrong: [],
      said: Array.from({ length: 7 }, (_, i) => `line ${i + 1}: a comment was not kept`),
    },
  ],
  models: [body],
} as unknown as Parameters<typeof Use>[0]['d'];

it('asks how a body sits where boxes allow several readings, and corrects nothing by itself', async () => {
  const sent = service(mayAll, { 'POST /deliveries/d1/use': delivery });
  show(<Use d={delivery} />);
  const way = await screen.findByLabelText('How the body sits');
  expect(way).toHaveProperty('value', '0');
  await userEvent.selectOptions(way, 'turn it by 270°');
  await userEvent.click(await screen.findByRole('button', { name: /^Take/ }));
  await waitFor(() => expect(sent.some((s) => s.method === 'POST')).toBe(true));
  expect(sent.find((s) => s.method === 'POST')?.body).toMatchObject({ models: [{ key: '0.1', correct: { turnZ: '270' } }] });
});

it('says all that a file did not carry over, the first five at once', async () => {
  service(mayAll, {});
  show(<Use d={delivery} />);
  expect(await screen.findByText(/line 1: a comment was not kept/)).toBeTruthy();
  expect(screen.getByText('2 more said of it')).toBeTruthy();
  await userEvent.click(screen.getByText('2 more said of it'));
  expect(screen.getByText(/line 7: a comment was not kept/)).toBeTruthy();
});

const row = (id: string, uses: number) => ({
  id,
  name: id,
  kind: 'land pattern',
  what: '2 pads',
  status: 'released',
  revision: 1,
  uses,
  findings: 0,
  version: 1,
  content: 'c',
  updated: '2031-04-01T10:00:00Z',
});

it('merges what is not the same only where somebody says so of it', async () => {
  const sent = service(mayAll, {
    '/model-twins': {
      clusters: [
        {
          kind: 'land pattern',
          exact: false,
          most: '0.02',
          what: ['the paste of pad 1 is another'],
          models: [row('Keep', 3), row('Twin', 1), row('Wider', 2)],
        },
      ],
    },
    'POST /model-merges': { models: ['Twin', 'Wider'], parts: [], left: [] },
  });
  show(<TwinsPage />);
  expect(await screen.findByText(/the paste of pad 1 is another/)).toBeTruthy();
  await userEvent.click(await screen.findByRole('button', { name: 'Merge…' }));
  const dialog = await screen.findByRole('dialog');
  await userEvent.click(within(dialog).getByLabelText(/^Wider although it may differ: 2 parts/));
  await userEvent.type(within(dialog).getByLabelText('Why'), 'one is enough');
  await userEvent.click(within(dialog).getByRole('button', { name: 'Merge 2' }));
  await waitFor(() => expect(sent.some((s) => s.method === 'POST')).toBe(true));
  expect(sent.find((s) => s.method === 'POST')?.body).toMatchObject({
    keep: 'Keep',
    gone: ['Twin', 'Wider'],
    different: ['Wider'],
    why: 'one is enough',
  });
});

const tried = {
  pins: [],
  symbol: undefined,
  svg: '',
  wrong: [],
  headings: ['SOIC-8', 'QFN-16', 'Name'],
  lists: ['SOIC-8', 'QFN-16'],
  columns: { numbers: [0, 1], name: 2, type: -1, unit: -1, side: -1 },
};

it('asks which package a pin table is of, and lets the columns be chosen otherwise', async () => {
  const sent = service(mayAll, { 'POST /symbol-tries': tried });
  show(<SymbolMaker />);
  await userEvent.type(await screen.findByLabelText('Pins, as pasted'), 'SOIC-8;QFN-16;Name');
  await userEvent.selectOptions(await screen.findByLabelText('Package or component'), 'QFN-16');
  await waitFor(() => expect(sent.at(-1)?.body).toMatchObject({ list: 'QFN-16' }));
  await userEvent.selectOptions(screen.getByLabelText('Numbers'), 'SOIC-8');
  await waitFor(() => expect(sent.at(-1)?.body).toMatchObject({ columns: { numbers: [0], name: 2 } }));
});

it('shows a land pattern while its figures are typed, and keeps each density', async () => {
  const made = (density: string) => ({
    name: `chip ${density}`,
    density,
    landPattern: { pads: [{}, {}] },
    workings: [{ what: 'Z, over the lands (length)', value: '2.4' }],
    findings: [],
    svg: '<svg/>',
  });
  const sent = service(mayAll, {
    'POST /land-pattern-tries': { made: [made('nominal'), made('least')] },
    'POST /models': { id: 'm1', name: 'chip', version: 1 },
    'POST /models/m1/release': { id: 'm1', name: 'chip', version: 2 },
  });
  show(<LandMaker />);
  await userEvent.selectOptions(await screen.findByLabelText('Family'), 'chip');
  expect(screen.getByText('Nothing to see yet')).toBeTruthy();
  await userEvent.type(screen.getByLabelText(/Over the ends/), '1.5 .. 1.7');
  await userEvent.type(screen.getByLabelText(/Length of a terminal/), '0.2..0.5');
  await userEvent.type(screen.getByLabelText(/Width of a terminal/), '0.7..0.9');
  await userEvent.click(screen.getByLabelText('least'));
  expect((await screen.findAllByText('Z, over the lands (length)')).length).toBe(2);
  await waitFor(() =>
    expect(sent.at(-1)?.body).toMatchObject({
      figures: { family: 'chip', span: { text: '1.5 .. 1.7' } },
      densities: ['nominal', 'least'],
    }),
  );
  await userEvent.click(screen.getByRole('button', { name: 'Keep the 2 land patterns' }));
  await waitFor(() => expect(sent.filter((s) => s.path.endsWith('/models')).length).toBe(2));
  expect(sent.filter((s) => s.path.endsWith('/release')).length).toBe(2);
});

it.each([
  {
    what: 'land pattern',
    maker: <LandMaker />,
    table: 'Table of pads, as pasted',
    keep: 'Keep the land pattern',
    from: 'land-pattern-tries',
    drawn: (text: string) => ({
      made: [{ name: 'Two holes', density: '', landPattern: { pads: [text] }, workings: [], findings: [], svg: '<svg/>' }],
    }),
    is: (text: string) => ({ landPattern: { pads: [text] } }),
  },
  {
    what: 'symbol',
    maker: <SymbolMaker />,
    table: 'Pins, as pasted',
    keep: 'Keep the symbol',
    from: 'symbol-tries',
    drawn: (text: string) => ({ ...tried, symbol: { pins: [text] }, svg: '<svg/>' }),
    is: (text: string) => ({ symbol: { pins: [text] } }),
  },
])('keeps the $what that the fields say while an earlier one is still shown', async ({ what, maker, table, keep, from, drawn, is }) => {
  let open: () => void = () => undefined;
  let gate = Promise.resolve();
  const sent = service(['model.edit'], {
    [`POST /${from}`]: async (said: { text: string }) => {
      await gate;
      return drawn(said.text);
    },
    'POST /models': { id: 'm1', name: 'kept', version: 1 },
  });
  show(maker);
  if (what === 'land pattern') await userEvent.selectOptions(await screen.findByLabelText('Made from'), 'a table of pads');
  await userEvent.type(await screen.findByLabelText(table), 'first');
  await userEvent.type(await screen.findByLabelText(`Name of the ${what}`), 'Two holes');
  const button = await screen.findByRole('button', { name: keep });
  gate = new Promise((done) => (open = done));
  await userEvent.type(screen.getByLabelText(table), ' and second');
  await userEvent.click(button);
  expect(sent.filter((s) => s.path === '/models')).toEqual([]);
  open();
  await waitFor(() => expect(sent.find((s) => s.path === '/models')?.body).toMatchObject(is('first and second')));
});

it('never says that pins agree before it is said whose pins they are', async () => {
  const compared = { ...tried, lines: [], differ: 0 };
  const sent = service(mayAll, { 'POST /models/m1/compare-pins': compared });
  show(<CompareDialog model={{ id: 'm1', name: 'Amp' } as Parameters<typeof CompareDialog>[0]['model']} onClose={() => undefined} />);
  await userEvent.type(await screen.findByLabelText('Pin table from the datasheet'), 'SOIC-8;QFN-16;Name');
  await userEvent.click(screen.getByRole('button', { name: 'Compare' }));
  expect(await screen.findByText('Nothing is compared yet.')).toBeTruthy();
  expect(screen.queryByText('✓ All pins agree.')).toBeNull();
  await userEvent.selectOptions(screen.getByLabelText('Package or component'), 'SOIC-8');
  await waitFor(() => expect(sent.at(-1)?.body).toMatchObject({ list: 'SOIC-8', text: 'SOIC-8;QFN-16;Name' }));
});

it('gives a part another land pattern for an assembly, and makes it the default', async () => {
  const hand = { id: 'm2', name: 'Chip hand', revision: 3 };
  const content = { landPattern: { id: 'm1', name: 'Chip', revision: 1 }, otherLandPatterns: [{ for: 'hand assembly', model: hand }] };
  const sent = service(mayAll, {
    'POST /parts/p1/land-patterns': {},
    '/models': { items: [{ ...hand, kind: 'land pattern' }], page: { total: 1 } },
  });
  show(<OtherLands part={{ id: 'p1', version: 7 }} content={content as unknown as Parameters<typeof OtherLands>[0]['content']} />);
  await userEvent.click(await screen.findByRole('button', { name: 'Make it the default…' }));
  await userEvent.type(screen.getByLabelText('What Chip is for from now on'), 'reflow');
  await userEvent.click(screen.getByRole('button', { name: 'Make it the default' }));
  await waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]).toMatchObject({ match: '"7"', body: { do: 'default', model: 'm2', for: 'reflow' } });
  await userEvent.click(await screen.findByRole('button', { name: /Add a land pattern/ }));
  await userEvent.type(await screen.findByLabelText('Land pattern'), 'Chip hand');
  await userEvent.click(screen.getByRole('button', { name: 'Add it' }));
  await waitFor(() => expect(sent[1]).toMatchObject({ body: { do: 'add', model: 'Chip hand' } }));
});
