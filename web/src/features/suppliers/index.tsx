export { ConnectionsPage } from './ConnectionsPage';
export { OffersPanel } from './OffersPanel';
export { SuppliersPage } from './SuppliersPage';
