export { ConnectionsPage } from './ConnectionsPage';
export { OfferNewsPage } from './OfferNewsPage';
export { ModelsArrived, OffersPanel } from './OffersPanel';
export { SuppliersPage } from './SuppliersPage';
