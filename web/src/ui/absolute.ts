// Outside a browser no address is relative to a page: to be imported by tests before what sends requests.
const Real = globalThis.Request;
globalThis.Request = class extends Real {
  constructor(at: RequestInfo | URL, init?: RequestInit) {
    super(typeof at === 'string' ? new URL(at, 'https://drawer.test') : at, init);
  }
};
