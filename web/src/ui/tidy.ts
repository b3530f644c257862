/** What every file of tests begins with: nothing stays behind from one test to the next, whichever file it is in. */
import './absolute';
import { cleanup } from '@testing-library/react';
import { afterAll, afterEach, beforeEach, vi } from 'vitest';
import { forgetAnswers } from '../api/kept';

const drawn = typeof document !== 'undefined';

beforeEach(() => {
  forgetAnswers();
  if (drawn) localStorage.clear();
});

afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
  if (!drawn) return;
  cleanup();
  document.body.replaceChildren();
});

afterAll(() => {
  if (drawn) for (const side of ['clientHeight', 'clientWidth']) Reflect.deleteProperty(HTMLElement.prototype, side); // what tall gave them
});
