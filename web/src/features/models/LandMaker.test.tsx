import { expect, test } from 'vitest';
import { figuresOf } from './LandMaker';

const soic = {
  pins: '8',
  pitch: '1.27',
  span: '5.8 .. 6.2',
  leadLength: '0.4..1.27',
  leadWidth: '0.31 … 0.51',
  bodyWidth: '3.9',
  bodyLength: '4.8 - 5',
};

test('typed figures go as they stand: what a dimension means is for the service to say', () => {
  expect(figuresOf('gull wing dual', soic, '')).toEqual({
    family: 'gull wing dual',
    pins: 8,
    pitch: '1.27',
    span: { text: '5.8 .. 6.2' },
    leadLength: { text: '0.4..1.27' },
    leadWidth: { text: '0.31 … 0.51' },
    bodyWidth: { text: '3.9' },
    bodyLength: { text: '4.8 - 5' },
  });
});

test('nothing is asked while a figure that is needed is blank', () => {
  expect(figuresOf('gull wing dual', { ...soic, pitch: ' ' }, '')).toBeUndefined();
  expect(
    figuresOf('ball grid', { rows: '12', columns: '12', pitch: '0.8', ball: '0.45', bodyWidth: '10', bodyLength: '10' }, 'BGA {pins}'),
  ).toMatchObject({
    family: 'ball grid',
    rows: 12,
    ball: '0.45',
    name: 'BGA {pins}',
  });
});

test('fields of another family are left out', () => {
  expect(figuresOf('chip', { ...soic, rows: '3' }, '')).toEqual({
    family: 'chip',
    span: { text: '5.8 .. 6.2' },
    leadLength: { text: '0.4..1.27' },
    leadWidth: { text: '0.31 … 0.51' },
  });
});
