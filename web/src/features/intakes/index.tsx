export { IntakeList } from './IntakeList';
export { IntakePage } from './IntakePage';
