export { useSettle, useWant, useWantMissing } from './queries';
export { WantPage } from './WantPage';
export { WantsPage } from './WantsPage';
