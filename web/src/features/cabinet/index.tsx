export { CabinetPage } from './CabinetPage';
export { CrosswalksPage } from './CrosswalksPage';
