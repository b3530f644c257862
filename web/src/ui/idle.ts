/**
 * Whether the console rests. It is busy while it asks or changes something, and during a pause that it takes by itself before it
 * goes on, such as for a view to come to rest. The page's root says so (`data-idle`) to whoever drives the console from outside.
 */
const quiet = 60; // milliseconds in which nothing may begin before the console is said to rest
let under = 0;
let rest: ReturnType<typeof setTimeout> | undefined;

/** Something begins; what is given back ends it, once. */
export function begin(): () => void {
  let open = true;
  under++;
  clearTimeout(rest);
  document.documentElement.dataset.idle = 'no';
  return () => {
    if (!open) return;
    open = false;
    under--;
    if (under === 0) settle();
  };
}

/** Says that the console rests, if nothing begins for a moment. */
export function settle() {
  clearTimeout(rest);
  rest = setTimeout(() => {
    if (under === 0) document.documentElement.dataset.idle = 'yes';
  }, quiet);
}

/** Does something after a pause of so many milliseconds, unless it is called off by what is given back. */
export function later(what: () => void, ms: number): () => void {
  const end = begin();
  const wait = setTimeout(() => {
    what();
    end();
  }, ms);
  return () => {
    clearTimeout(wait);
    end();
  };
}
