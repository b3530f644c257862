export { BomComparePage } from './ComparePage';
export { BomList } from './BomList';
export { BomPage } from './BomPage';
export { CostPage } from './CostPage';
export { ReadingsPage } from './ReadingsPage';
export { WherePage } from './WherePage';
export { RevisionPage } from './RevisionPage';
export { RevisionsPage } from './RevisionsPage';
