// @vitest-environment jsdom
import '../../ui/absolute';
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, expect, test, vi } from 'vitest';
import { apart } from '../../ui/testing';
import { TableFile } from './TableFile';

apart();

const waiting = new Map<string, { keep: (f: { hash: string }) => void; fail: (e: Error) => void }>();
vi.mock('../../api/client', () => ({
  upload: (f: File) => new Promise((keep, fail) => waiting.set(f.name, { keep, fail })),
}));
afterEach(() => waiting.clear());

const choose = (name: string) => userEvent.upload(screen.getByLabelText('or a file'), new File(['1'], name));

test('of two files only the one that was chosen last counts, whichever arrives first', async () => {
  const told: (string | undefined)[] = [];
  render(<TableFile onFile={(hash) => told.push(hash)} />);
  await choose('one.csv');
  await choose('two.csv');
  waiting.get('two.csv')?.keep({ hash: 'two' });
  waiting.get('one.csv')?.keep({ hash: 'one' });
  await vi.waitFor(() => expect(told).toEqual([undefined, undefined, 'two']));
});

test('a file that cannot be kept is said, nothing is left of the one before, and the next one takes the sentence away', async () => {
  const told: (string | undefined)[] = [];
  render(<TableFile onFile={(hash) => told.push(hash)} />);
  await choose('large.csv');
  waiting.get('large.csv')?.fail(new Error('large.csv has more than 64 MB, which is the limit; nothing was kept.'));
  expect((await screen.findByRole('alert')).textContent).toContain('more than 64 MB');
  expect(told).toEqual([undefined, '']);
  await choose('small.csv');
  expect(screen.queryByRole('alert')).toBeNull();
});
