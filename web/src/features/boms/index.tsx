export { BomList } from './BomList';
export { BomPage } from './BomPage';
