// @vitest-environment jsdom
import { render, screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { PreviewOf } from './ChangeDialog';

const nothing = {
  parts: 0,
  released: 0,
  drafts: 0,
  incomplete: 0,
  losses: [],
  lossCount: 0,
  samples: [],
  crosswalks: [],
  also: [],
  undoable: true,
  digest: 'd',
  version: 3,
};

test('says what follows a change of templates beside the parts, and nothing of what does not', () => {
  render(<PreviewOf preview={{ ...nothing, crosswalks: ['Marsh Lane'], also: ['3 saved views', 'the severities of BOMs'] }} />);
  const says = screen.getByRole('status').textContent;
  expect(says).toContain('Crosswalks that follow: Marsh Lane');
  expect(says).toContain('What else follows: 3 saved views, the severities of BOMs');
});

test('names no crosswalks and nothing else where none follow', () => {
  render(<PreviewOf preview={nothing} />);
  expect(screen.getByRole('status').textContent).not.toContain('follow');
});
