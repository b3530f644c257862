export { Held } from './Held';
export { Talk } from './Talk';
