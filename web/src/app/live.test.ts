import { QueryClient } from '@tanstack/react-query';
import { describe, expect, it } from 'vitest';
import { concerns, hear, type Deed } from './live';

const saved: Deed = {
  position: 7,
  kind: 'part.edit',
  kinds: ['part'],
  heads: [{ kind: 'part', id: 'id-1', number: 'EW-R-00001' }],
  many: false,
};

describe('a saved part', () => {
  it('asks anew for its own page, by number, by identifier, and by a former number that leads to it', () => {
    expect(concerns(saved, ['part', 'ew-r-00001'])).toBe(true);
    expect(concerns(saved, ['part', 'id-1'])).toBe(true);
    expect(concerns(saved, ['part', 'OLD 7'], { id: 'id-1' })).toBe(true);
  });

  it('asks anew for lists and for what is worked out from all parts', () => {
    for (const key of [
      ['parts', 'answer', {}],
      ['bom', 'Board A'],
      ['intake', 'i'],
    ])
      expect(concerns(saved, key)).toBe(true);
  });

  it('leaves what was said about it alone, and what was said leaves all else alone', () => {
    expect(concerns(saved, ['comments', 'id-1'])).toBe(false);
    const said = { ...saved, kind: 'comment' };
    for (const key of [['comments', 'id-1'], ['life', 'id-1'], ['worklist']]) expect(concerns(said, key)).toBe(true);
    for (const key of [['comments', 'id-2'], ['life', 'id-2'], ['part', 'id-1'], ['parts'], ['queue']])
      expect(concerns(said, key)).toBe(false);
  });

  it('asks a board anew for what became of a board that it takes', () => {
    const frozen = { ...saved, kind: 'bom.freeze', kinds: ['bom'], heads: [{ kind: 'bom', id: 'b-2', number: 'Head' }] };
    const station = { id: 'b-1', lines: [{}, { board: { id: 'b-2' } }] };
    expect(concerns(frozen, ['bom', 'Station'], station)).toBe(true);
    expect(concerns(frozen, ['bom', 'Station'], { id: 'b-1', lines: [{}] })).toBe(false);
    expect(concerns(frozen, ['bom', 'Station', 'cost'], { id: 'b-1' })).toBe(false);
  });

  it('hears of notices', () => {
    const told = { ...saved, kind: 'notices', kinds: ['notice'], heads: [] };
    for (const key of [['notices', true], ['unread'], ['worklist']]) expect(concerns(told, key)).toBe(true);
    expect(concerns(told, ['part', 'id-1'])).toBe(false);
  });

  it('leaves other pages alone', () => {
    for (const key of [
      ['part', 'EW-R-00002'],
      ['life', 'id-2'],
      ['models', 'symbol'],
      ['cabinet'],
      ['crosswalks'],
      ['me'],
      ['views'],
      ['job', 'j'],
    ])
      expect(concerns(saved, key)).toBe(false);
  });
});

it('a deed over many things asks anew for every one of their kind', () => {
  const many = { ...saved, heads: [], many: true };
  expect(concerns(many, ['part', 'EW-R-00002'])).toBe(true);
  expect(concerns(many, ['model', 'm'])).toBe(false);
});

it('a page that missed much asks anew for all but who is signed in', () => {
  const missed = { ...saved, kind: 'missed', kinds: [], heads: [] };
  expect(concerns(missed, ['cabinet'])).toBe(true);
  expect(concerns(missed, ['me'])).toBe(false);
});

it('asks anew for the cost of a board by way of the boards that it takes', () => {
  const queries = new QueryClient();
  const keys = [['bom', 'Station'], ['bom', 'Station', 'cost', 40], ['bom', 'Pier'], ['bom', 'Pier', 'cost', 40], ['boms']];
  const boards: Record<string, unknown> = {
    Station: { id: 'b-1', lines: [{ board: { id: 'b-2' } }] },
    Pier: { id: 'b-3', lines: [{}] },
  };
  for (const key of keys) queries.setQueryData(key, key.length === 2 ? boards[String(key[1])] : { sum: '1 EUR' });
  hear(queries, { position: 9, kind: 'bom.freeze', kinds: ['bom'], heads: [{ kind: 'bom', id: 'b-2', number: 'Head' }], many: false });
  expect(keys.map((key) => queries.getQueryState(key)?.isInvalidated)).toEqual([true, true, false, false, true]);
});
