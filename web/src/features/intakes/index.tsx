export { DecisionsPage } from './Decisions';
export { IntakeList } from './IntakeList';
export { IntakePage } from './IntakePage';
export { MovedTable } from './Preview';
