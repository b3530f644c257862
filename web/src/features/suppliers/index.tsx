export { ConnectionsPage } from './ConnectionsPage';
export { OfferNewsPage } from './OfferNewsPage';
export { OffersPanel } from './OffersPanel';
export { SuppliersPage } from './SuppliersPage';
