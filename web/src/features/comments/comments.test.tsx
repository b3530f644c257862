// @vitest-environment jsdom
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { service, show } from '../../ui/testing';
import { Held } from './Held';
import { Talk } from './Talk';

const at = '2026-03-01T10:00:00Z';
const list = {
  items: [
    { id: 'c1', by: 'Ulla', text: 'the datasheet says 5 %', about: 'values.tolerance', at },
    { id: 'c2', by: 'Iver', text: 'page 3 says 1 %', about: 'values.tolerance', answers: 'c1', at },
    { id: 'c3', by: 'Ulla', text: 'done with', at, settled: true, settledBy: 'Iver' },
  ],
  open: 1,
  page: { total: 3, offset: 0, limit: 200 },
};

test('shows what is open with its answers, and what is settled where it is asked for', async () => {
  service(['comment'], { '/things/p1/comments': list });
  show(<Talk id="p1" abouts={{ 'values.tolerance': 'Tolerance' }} />);
  expect(await screen.findByText('Comments (1 open)')).toBeTruthy();
  expect(screen.getByText('Tolerance', { selector: 'span' })).toBeTruthy();
  expect(screen.getByText('page 3 says 1 %')).toBeTruthy();
  expect(screen.queryByText('done with')).toBeNull();
  await userEvent.click(screen.getByRole('button', { name: 'Show 1 settled' }));
  expect(screen.getByText('settled by Iver')).toBeTruthy();
});

test('says something about one value, answers and settles', async () => {
  const sent = service(['comment'], { '/things/p1/comments': list, 'POST /things/p1/comments': list, 'POST /comments/c1/settled': list });
  show(<Talk id="p1" abouts={{ 'values.tolerance': 'Tolerance' }} />);
  await screen.findByText('page 3 says 1 %');
  await userEvent.type(screen.getByLabelText('Say something'), 'is it?');
  await userEvent.selectOptions(screen.getByLabelText('About'), 'values.tolerance');
  await userEvent.click(screen.getByRole('button', { name: 'Say it' }));
  await userEvent.click(screen.getByRole('button', { name: 'Answer' }));
  await userEvent.type(screen.getByLabelText('Your answer'), 'it is{Control>}{Enter}{/Control}');
  await userEvent.click(screen.getByRole('button', { name: 'Settle' }));
  expect(sent.map((s) => s.body)).toEqual([
    { text: 'is it?', about: 'values.tolerance' },
    { text: 'it is', answers: 'c1' },
    { settled: true },
  ]);
});

test('whoever only reads is offered nothing to write', async () => {
  service([], { '/things/p1/comments': list });
  show(<Talk id="p1" />);
  await screen.findByText('page 3 says 1 %');
  expect(screen.queryByRole('button', { name: 'Settle' })).toBeNull();
  expect(screen.queryByLabelText('Say something')).toBeNull();
});

const hold = { by: 'Iver', why: 'longer pads', since: at, until: '2026-03-01T18:00:00Z' };

test('what somebody else holds is taken over by a librarian only', async () => {
  service(['part.edit'], {});
  show(<Held id="p1" name="EW-R-00001" hold={hold} edit />);
  expect(await screen.findByText('held by Iver')).toBeTruthy();
  expect(screen.queryByRole('button')).toBeNull();
});

test('a librarian takes it over with a reason', async () => {
  const sent = service(['part.edit', 'hold.take-over'], { 'POST /things/p1/hold': {} });
  show(<Held id="p1" name="EW-R-00001" hold={hold} edit />);
  await userEvent.click(await screen.findByRole('button', { name: 'Take it over…' }));
  const dialog = await screen.findByRole('dialog');
  await userEvent.type(within(dialog).getByLabelText('What you are at'), 'he is away');
  await userEvent.selectOptions(within(dialog).getByLabelText('For'), '24');
  await userEvent.click(within(dialog).getByRole('button', { name: 'Take it over' }));
  expect(sent).toEqual([{ method: 'POST', path: '/things/p1/hold', match: null, body: { why: 'he is away', hours: 24, takeOver: true } }]);
});

test('what one holds oneself is let go of', async () => {
  const sent = service(['part.edit'], { 'POST /things/p1/hold/end': {} });
  show(<Held id="p1" name="EW-R-00001" hold={{ ...hold, mine: true }} edit />);
  await userEvent.click(await screen.findByRole('button', { name: 'Let go' }));
  expect(sent.map((s) => s.path)).toEqual(['/things/p1/hold/end']);
});
