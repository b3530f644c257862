export { Facets } from './Facets';
export { ComparePage } from './ComparePage';
export { NewPart } from './NewPart';
export { PartPage } from './PartPage';
export { PartsPage } from './PartsPage';
