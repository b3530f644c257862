export { WatchButton } from './WatchButton';
export { ToldPanel } from './ToldPanel';
export { useUnread } from './queries';
