// @vitest-environment jsdom
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { service, show, tall } from '../../ui/testing';
import { DecidedStep, DecisionsPage } from './Decisions';
import { MendStep } from './MendStep';
import type { Intake } from './queries';

const cause = (name: string, mends: unknown[]) => ({
  cause: name,
  name,
  severity: 'warning',
  count: 2,
  what: `${name} is wrong`,
  rows: [],
  mends,
});
const intake = {
  id: 'i1',
  version: 4,
  number: 'IN-00004',
  digest: 'd',
  counts: {},
  waived: [],
  decisions: { holds: 1, otherwise: 1 },
  causes: [
    cause('doubt:Cap→capacitance', [
      { name: 'unit-pF', label: 'Without a unit, pF is meant', change: { rule: { from: 'Cap', to: 'capacitance', unit: 'pF' } } },
      { name: 'no-field', label: 'Leave the field out', change: { drop: { from: 'Cap', to: 'capacitance' } } },
    ]),
    cause('decided:Cap', [{ name: 'withdraw', label: 'Take the earlier corrections back', decided: 'withdraw' }]),
  ],
} as unknown as Intake;
const tried = {
  rows: 2,
  settled: 0,
  leftOut: 0,
  lost: 0,
  loses: [],
  moved: [{ row: 4, moves: [{ what: 'capacitance', text: '471', from: '', to: '471 pF' }] }],
};
const rows = { page: { offset: 0, limit: 200, total: 0 }, items: [] };

it('shows the rows that a mend changes before it changes them', async () => {
  const user = userEvent.setup();
  const answers: Record<string, unknown> = {
    '/intakes/i1/rows': rows,
    'POST /intakes/i1/tries': tried,
    'POST /intakes/i1/edits': { ...intake, version: 5 },
  };
  const sent = service(['intake.edit'], answers);
  show(<MendStep intake={intake} state="" cause="doubt:Cap→capacitance" onShow={() => undefined} />);
  await user.click(await screen.findByText('Without a unit, pF is meant'));
  let dialog = await screen.findByRole('dialog');
  expect(await within(dialog).findByText('471 pF')).toBeTruthy();
  expect(sent.filter((s) => s.path.endsWith('/edits'))).toHaveLength(0);
  const act = within(dialog).getByRole('button', { name: 'Change 2 rows' });
  await waitFor(() => expect(document.activeElement).toBe(act)); // Enter does what was looked at
  await user.keyboard('{Enter}');
  await waitFor(() => expect(sent.find((s) => s.path.endsWith('/edits'))?.body).toEqual({ changes: [intake.causes[0]?.mends[0]?.change] }));
  await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());

  answers['POST /intakes/i1/tries'] = {
    ...tried,
    settled: 1,
    lost: 57,
    loses: ['capacitance 57'],
    moved: [{ ...tried.moved[0], settled: 'the cell was corrected' }],
  };
  await user.click(screen.getByText('Leave the field out'));
  dialog = await screen.findByRole('dialog');
  expect((await within(dialog).findByText(/57 values gone: capacitance 57/)).textContent).toContain('▲');
  expect(within(dialog).getByText('the cell was corrected')).toBeTruthy();
  await waitFor(() => expect(document.activeElement).toBe(within(dialog).getByRole('button', { name: 'Leave all as it is' })));
  await user.click(within(dialog).getByRole('button', { name: 'Change 2 rows, 1 settled one too' }));
  await waitFor(() => expect(sent.filter((s) => s.path.endsWith('/edits')).at(-1)?.body).toMatchObject({ evenSettled: true }));
  await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());

  // The others change and the settled ones stay, those apart that are let change one by one.
  answers['POST /intakes/i1/tries'] = {
    ...tried,
    rows: 5,
    settled: 2,
    moved: [4, 5].map((row) => ({ ...tried.moved[0], row, settled: 'the cell was corrected' })),
  };
  await user.click(screen.getByText('Without a unit, pF is meant'));
  dialog = await screen.findByRole('dialog');
  expect(await within(dialog).findByRole('button', { name: 'Change 3 rows, 2 settled ones stay' })).toBeTruthy();
  await user.click(within(dialog).getByRole('checkbox', { name: 'Row 5 may change' }));
  await user.click(within(dialog).getByRole('button', { name: 'Change 4 rows, 1 settled one stays' }));
  await waitFor(() =>
    expect(sent.filter((s) => s.path.endsWith('/edits')).at(-1)?.body).toMatchObject({ keepSettled: true, evenRows: [5] }),
  );
});

it('shows the rows that a new choice would make readable before it is added', async () => {
  const user = userEvent.setup();
  const sent = service(['intake.edit', 'cabinet.apply'], {
    '/intakes/i1/rows': rows,
    'POST /intakes/i1/tries': { ...tried, rows: 1 },
    'POST /cabinet/choices': {},
  });
  const more = {
    ...intake,
    causes: [cause('choice:Mount', [{ name: 'add', label: 'Add buried', choice: { parameter: 'mounting', choice: 'buried' } }])],
  };
  show(<MendStep intake={more as unknown as Intake} state="" cause="choice:Mount" onShow={() => undefined} />);
  await user.click(await screen.findByText('Add buried'));
  await user.click(await screen.findByRole('button', { name: 'Add it to the cabinet' }));
  expect(sent.find((s) => s.path.endsWith('/tries'))?.body).toMatchObject({ choice: { parameter: 'mounting', choice: 'buried' } });
  await waitFor(() => expect(sent.find((s) => s.path.endsWith('/choices'))?.body).toEqual({ parameter: 'mounting', choice: 'buried' }));
  expect(sent.filter((s) => s.path.endsWith('/edits'))).toHaveLength(0);
});

it('takes corrections back whose cells say something else now', async () => {
  const user = userEvent.setup();
  const sent = service(['intake.edit'], {
    '/intakes/i1/rows': rows,
    'POST /intakes/i1/tries': { ...tried, rows: 0, moved: [] },
    'POST /intakes/i1/edits': { ...intake, version: 5 },
  });
  show(<MendStep intake={intake} state="" cause="decided:Cap" onShow={() => undefined} />);
  await user.click(await screen.findByText('Take the earlier corrections back'));
  await user.click(await screen.findByRole('button', { name: 'Do it for later rows' }));
  await waitFor(() =>
    expect(sent.find((s) => s.path.endsWith('/edits'))?.body).toEqual({ decided: { cause: 'decided:Cap', as: 'withdraw' } }),
  );
});

const decision = {
  id: 'a1', kind: 'cell', supplier: 'Pier stock', row: 'P-1, Tidewright', about: { MPN: 'P-1', Maker: 'Tidewright' }, field: 'Value', seen: { Value: '471' }, outcome: '470 pF',
  why: 'as the label says', by: 'Maren', at: '2026-11-02T03:00:00Z', intake: 'IN-00001', rows: [6], fate: 'otherwise',
}; // prettier-ignore

it('lists what was decided with who, when and how it stands, and takes it back', async () => {
  tall();
  const user = userEvent.setup();
  const sent = service(['intake.edit'], {
    '/intakes/i1/decisions': { page: { offset: 0, limit: 200, total: 1 }, items: [decision] },
    'POST /intakes/i1/edits': { ...intake, version: 5 },
  });
  show(<DecidedStep intake={intake} />);
  expect(await screen.findByText('Value: “470 pF” for “471”, as the label says')).toBeTruthy();
  expect(screen.getByText('P-1, Tidewright').getAttribute('title')).toBe('MPN “P-1”, Maker “Tidewright”');
  for (const text of ['Maren', '2026-11-02', 'IN-00001', 'the file says otherwise'])
    expect(screen.getAllByText(text).length).toBeGreaterThan(0);
  await user.click(screen.getByRole('button', { name: /the file says otherwise 1/ }));
  expect(screen.getByRole('button', { name: /the file says otherwise 1/ }).getAttribute('aria-pressed')).toBe('true');
  await user.click((await screen.findAllByRole('checkbox')).at(-1) as HTMLElement);
  await user.click(screen.getByRole('button', { name: 'Take 1 back' }));
  await waitFor(() => expect(sent.find((s) => s.path.endsWith('/edits'))?.body).toEqual({ withdraw: ['a1'] }));
});

it('lists the decisions of all files and takes them back for later ones', async () => {
  tall();
  const user = userEvent.setup();
  const sent = service(['intake.edit'], {
    '/decisions': { page: { offset: 0, limit: 200, total: 1 }, items: [{ ...decision, withdrawn: 'Tove on 2026-11-03' }] },
    'POST /decisions/withdraw': { decisions: 1 },
  });
  show(<DecisionsPage />, '/decisions?supplier=Pier%20stock', '/decisions');
  expect(await screen.findByText('Pier stock')).toBeTruthy();
  expect(screen.queryByText('Tove on 2026-11-03')).toBeNull();
  await user.click(screen.getByRole('checkbox', { name: 'Also what was taken back' }));
  expect(await screen.findByText('Tove on 2026-11-03')).toBeTruthy();
  await user.click(screen.getAllByRole('checkbox').at(-1) as HTMLElement);
  await user.click(screen.getByRole('button', { name: 'Take 1 back for later files' }));
  await waitFor(() => expect(sent.find((s) => s.path.endsWith('/withdraw'))?.body).toEqual({ ids: ['a1'] }));
});
