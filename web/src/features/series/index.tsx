export { SeriesListPage } from './SeriesListPage';
export { SeriesPage } from './SeriesPage';
