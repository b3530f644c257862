// @vitest-environment jsdom
import { beforeEach, expect, test, vi } from 'vitest';
import { begin, later, settle } from './idle';

const says = () => document.documentElement.dataset.idle;

beforeEach(() => {
  vi.useFakeTimers();
  settle();
  vi.runAllTimers();
});

test('the console is busy from the moment something begins until all has ended and a moment has passed', () => {
  const one = begin();
  const other = begin();
  expect(says()).toBe('no');
  one();
  one(); // ending it twice ends nothing else
  vi.runAllTimers();
  expect(says()).toBe('no');
  other();
  expect(says()).toBe('no');
  vi.advanceTimersByTime(30);
  const third = begin();
  vi.advanceTimersByTime(1000);
  expect(says()).toBe('no');
  third();
  vi.advanceTimersByTime(59);
  expect(says()).toBe('no');
  vi.advanceTimersByTime(1);
  expect(says()).toBe('yes');
});

test('a page that has just opened rests once nothing has begun for a moment, and not while something is under way', () => {
  const end = begin();
  settle();
  vi.runAllTimers();
  expect(says()).toBe('no');
  end();
  vi.runAllTimers();
  expect(says()).toBe('yes');
});

test('a pause is busy until what comes after it was done, and what that begins goes on from there', () => {
  const done: string[] = [];
  let end = () => {};
  later(() => {
    done.push(`was ${says()}`);
    end = begin();
  }, 250);
  expect(says()).toBe('no');
  vi.advanceTimersByTime(249);
  expect(done).toEqual([]);
  vi.advanceTimersByTime(1000);
  expect(done).toEqual(['was no']);
  expect(says()).toBe('no');
  end();
  vi.runAllTimers();
  expect(says()).toBe('yes');
});

test('a pause that is called off does nothing and is busy no more, also when it is called off twice or too late', () => {
  const done: number[] = [];
  const off = later(() => done.push(1), 250);
  vi.advanceTimersByTime(100);
  off();
  off();
  vi.advanceTimersByTime(60);
  expect(says()).toBe('yes');
  const late = later(() => done.push(2), 10);
  const still = begin();
  vi.advanceTimersByTime(10);
  late();
  vi.advanceTimersByTime(1000);
  expect(says()).toBe('no'); // what began beside it is not ended by it
  still();
  vi.runAllTimers();
  expect([done, says()]).toEqual([[2], 'yes']);
});
