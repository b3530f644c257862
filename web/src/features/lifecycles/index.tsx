export { BulkMove } from './BulkMove';
export { LifePanel, MoveButtons } from './LifePanel';
export { LifecyclesPage } from './LifecyclesPage';
export { QueuePage } from './QueuePage';
export { ReviewPage } from './ReviewPage';
export { TogetherPage } from './TogetherPage';
export { closed, useHeldBy, useLife, useStates } from './queries';
export { Trail } from './Trail';
