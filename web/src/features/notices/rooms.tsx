export { NoticesPage } from './NoticesPage';
