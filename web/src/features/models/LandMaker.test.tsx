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

test('typed figures are ranges, numbers and lengths', () => {
  expect(figuresOf('gull wing dual', soic, '')).toEqual({
    family: 'gull wing dual',
    pins: 8,
    pitch: '1.27',
    span: { min: '5.8', max: '6.2' },
    leadLength: { min: '0.4', max: '1.27' },
    leadWidth: { min: '0.31', max: '0.51' },
    bodyWidth: { min: '3.9', max: '3.9' },
    bodyLength: { min: '4.8', max: '5' },
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
    span: { min: '5.8', max: '6.2' },
    leadLength: { min: '0.4', max: '1.27' },
    leadWidth: { min: '0.31', max: '0.51' },
  });
});
