// @vitest-environment jsdom
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { beforeEach, expect, test, vi } from 'vitest';
import { Refusal, service } from '../../ui/testing';
import { TableFile } from './TableFile';

const waiting = new Map<string | null, (answer: unknown) => void>();
beforeEach(() => {
  waiting.clear();
  service([], { 'POST /files': (_: unknown, query: URLSearchParams) => new Promise((keep) => waiting.set(query.get('name'), keep)) });
});
const answer = async (name: string, what: unknown) => {
  await vi.waitFor(() => expect(waiting.has(name)).toBe(true));
  waiting.get(name)?.(what);
};

const choose = (name: string) => userEvent.upload(screen.getByLabelText('or a file'), new File(['1'], name));

test('of two files only the one that was chosen last counts, whichever arrives first', async () => {
  const told: (string | undefined)[] = [];
  render(<TableFile onFile={(hash) => told.push(hash)} />);
  await choose('one.csv');
  await choose('two.csv');
  await answer('two.csv', { hash: 'two' });
  await answer('one.csv', { hash: 'one' });
  await vi.waitFor(() => expect(told).toEqual([undefined, undefined, 'two']));
});

test('a file that cannot be kept is said, nothing is left of the one before, and the next one takes the sentence away', async () => {
  const told: (string | undefined)[] = [];
  render(<TableFile onFile={(hash) => told.push(hash)} />);
  await choose('large.csv');
  await answer('large.csv', new Refusal(413, 'too-large', 'large.csv has more than 64 MB, which is the limit; nothing was kept.'));
  expect((await screen.findByRole('alert')).textContent).toContain('more than 64 MB');
  expect(told).toEqual([undefined, '']);
  await choose('small.csv');
  expect(screen.queryByRole('alert')).toBeNull();
});
