// @vitest-environment jsdom
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, it } from 'vitest';
import { service, show } from '../../ui/testing';
import { PeoplePage, YouPage } from './rooms';

const group = {
  id: 'g1',
  name: 'Power desk',
  version: 3,
  members: [{ login: 'maren', name: 'Maren' }],
  drawers: ['regulators'],
  kinds: ['symbol'],
  mine: true,
};
const answers = {
  '/groups': { items: [group, { ...group, id: 'g2', name: 'Drawing room', members: [], drawers: [], kinds: [], mine: false }] },
  '/accounts': [
    { id: 'a1', login: 'maren', name: 'Maren', role: 'librarian', disabled: false },
    { id: 'a2', login: 'tove', name: 'Tove', role: 'engineer', disabled: true },
  ],
  '/cabinet': { version: 2, drawers: [{ key: 'regulators', label: 'Regulators', path: ['regulators'] }] },
  'PUT /groups/g1': group,
  'POST /groups': group,
  'DELETE /groups/g1': {},
  'POST /accounts': {},
  'PATCH /accounts/a2': {},
};
const manage = ['account.manage'];

it('shows who answers for what to everybody, and accounts only to whoever manages them', async () => {
  service([], answers);
  show(<PeoplePage />);
  expect(await screen.findByText('answers for regulators, symbol')).toBeTruthy();
  expect(screen.getByText('you are in it')).toBeTruthy();
  expect(screen.getByText('nobody is in it')).toBeTruthy();
  expect(screen.getByText('Accounts are for administrators')).toBeTruthy();
  expect(screen.queryByRole('button')).toBeNull();
});

it('changes a group on the version that was looked at, and keeps what was not touched', async () => {
  const sent = service(manage, answers);
  show(<PeoplePage />);
  await userEvent.click(await screen.findByRole('button', { name: 'Change the group Power desk' }));
  await userEvent.click(await screen.findByRole('checkbox', { name: /^Tove/ }));
  await userEvent.click(screen.getByRole('checkbox', { name: 'symbol' }));
  await userEvent.click(screen.getByRole('checkbox', { name: 'body' }));
  await userEvent.click(screen.getByRole('button', { name: 'Save the group' }));
  await waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]).toEqual({
    method: 'PUT',
    path: '/groups/g1',
    match: '"3"',
    body: { name: 'Power desk', members: ['maren', 'tove'], drawers: ['regulators'], kinds: ['body'] },
  });
});

it('makes a group, and removes one on the version that was looked at', async () => {
  const sent = service(manage, answers);
  show(<PeoplePage />);
  await userEvent.click(await screen.findByRole('button', { name: 'Make a group…' }));
  await userEvent.type(screen.getByLabelText(/^Name/), 'Rigging');
  await userEvent.click(screen.getByRole('checkbox', { name: 'Regulators' }));
  await userEvent.click(screen.getByRole('button', { name: 'Save the group' }));
  await waitFor(() =>
    expect(sent).toEqual([
      { method: 'POST', path: '/groups', match: null, body: { name: 'Rigging', members: [], drawers: ['regulators'], kinds: [] } },
    ]),
  );
  await userEvent.click(await screen.findByRole('button', { name: 'Change the group Power desk' }));
  await userEvent.click(screen.getByRole('button', { name: 'Remove the group' }));
  await waitFor(() => expect(sent[1]).toMatchObject({ method: 'DELETE', path: '/groups/g1', match: '"3"' }));
});

it('adds somebody, and changes an account without touching its password', async () => {
  const sent = service(manage, answers);
  show(<PeoplePage />);
  await userEvent.click(await screen.findByRole('button', { name: 'Add somebody…' }));
  await userEvent.type(screen.getByLabelText(/^Signs in as/), 'runa');
  await userEvent.type(screen.getByLabelText(/^Name/), 'Runa');
  await userEvent.selectOptions(screen.getByLabelText('Role'), 'reader');
  await userEvent.type(screen.getByLabelText(/^Password/), 'moorings-and-masts');
  await userEvent.click(screen.getByRole('button', { name: 'Add' }));
  await waitFor(() => expect(sent).toHaveLength(1));
  expect(sent[0]).toMatchObject({
    path: '/accounts',
    body: { login: 'runa', name: 'Runa', role: 'reader', password: 'moorings-and-masts' },
  });
  await userEvent.click(await screen.findByRole('button', { name: 'Change Tove' }));
  const out = screen.getByRole('checkbox', { name: 'may not sign in any more' });
  expect(out).toHaveProperty('checked', true);
  await userEvent.click(out);
  await userEvent.click(screen.getByRole('button', { name: 'Save' }));
  await waitFor(() => expect(sent).toHaveLength(2));
  expect(sent[1]).toMatchObject({ method: 'PATCH', path: '/accounts/a2', body: { role: 'engineer', disabled: false } });
  expect(sent[1]?.body).not.toHaveProperty('password');
});

const me = { ...answers, '/tokens': [{ id: 't1', name: 'nightly', created: '2031-04-01T10:00:00Z', expires: '2032-04-01T10:00:00Z' }] };

it('changes one’s own password only where it was typed twice alike', async () => {
  const sent = service([], { ...me, 'POST /me/password': {} });
  show(<YouPage />);
  await userEvent.type(await screen.findByLabelText(/^Present password/), 'buoys-and-gauges');
  await userEvent.type(screen.getByLabelText(/^New password \*?$|^New password(?! again)/), 'moorings-and-masts');
  await userEvent.type(screen.getByLabelText(/^New password again/), 'moorings-and-mast');
  expect(screen.getByText('It differs from the one above.')).toBeTruthy();
  await userEvent.keyboard('{Enter}');
  expect(sent).toEqual([]);
  await userEvent.type(screen.getByLabelText(/^New password again/), 's');
  await userEvent.click(screen.getByRole('button', { name: 'Change the password' }));
  await waitFor(() =>
    expect(sent).toEqual([
      { method: 'POST', path: '/me/password', match: null, body: { password: 'buoys-and-gauges', next: 'moorings-and-masts' } },
    ]),
  );
  expect(screen.getByLabelText(/^Present password/)).toHaveProperty('value', '');
});

it('shows the secret of a token once, and ends tokens', async () => {
  const sent = service([], {
    ...me,
    'POST /tokens': { id: 't2', name: 'label printer', secret: 'jdt_once', created: '', expires: '' },
    'DELETE /tokens/t1': [],
  });
  show(<YouPage />);
  await userEvent.type(await screen.findByLabelText(/^For/), 'label printer');
  await userEvent.click(screen.getByRole('button', { name: 'Make a token' }));
  expect(await screen.findByText('jdt_once')).toBeTruthy();
  await userEvent.click(screen.getByRole('button', { name: 'I have it' }));
  expect(screen.queryByText('jdt_once')).toBeNull();
  await userEvent.click(screen.getByRole('button', { name: 'End the token nightly' }));
  await waitFor(() => expect(sent.map((s) => `${s.method} ${s.path}`)).toEqual(['POST /tokens', 'DELETE /tokens/t1']));
});
