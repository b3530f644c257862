import { createBrowserRouter, type RouteObject } from 'react-router';
import { Empty } from '../ui/kit';
import { Astray, NotLoaded } from './astray';
import { Shell } from './Shell';

// Each room is a file of its own, and comes when somebody goes there.
const boms = () => import('../features/boms');
const cabinet = () => import('../features/cabinet');
const intakes = () => import('../features/intakes');
const lifecycles = () => import('../features/lifecycles');
const models = () => import('../features/models');
const people = () => import('../features/people/rooms');
const worklist = () => import('../features/worklist');
const series = () => import('../features/series');
const suppliers = () => import('../features/suppliers');
const wants = () => import('../features/wants');
const notices = () => import('../features/notices/rooms');
const readout = () => import('../features/readout');
const trail = () => import('../features/trail');
const parts = () => import('../features/parts');

/** A page of a room. */
function page<Room, Name extends keyof Room>(path: string, room: () => Promise<Room>, name: Name): RouteObject {
  return { path, lazy: async () => ({ Component: (await room())[name] as React.ComponentType }) };
}

export const router = createBrowserRouter([
  {
    path: '/',
    element: <Shell />,
    hydrateFallbackElement: <Empty title="One moment…" />,
    children: [
      {
        errorElement: <NotLoaded />,
        children: [
          { index: true, lazy: async () => ({ Component: (await worklist()).WorklistPage }) },
          page('parts', parts, 'PartsPage'),
          page('parts/new', parts, 'NewPart'),
          page('compare', parts, 'ComparePage'),
          page('parts/:key', parts, 'PartPage'),
          page('intakes', intakes, 'IntakeList'),
          page('intakes/:id', intakes, 'IntakePage'),
          page('decisions', intakes, 'DecisionsPage'),
          page('boms', boms, 'BomList'),
          page('boms/:key', boms, 'BomPage'),
          page('where-used', boms, 'WherePage'),
          page('boms/:key/cost', boms, 'CostPage'),
          page('boms/:key/revisions', boms, 'RevisionsPage'),
          page('boms/:key/learned', boms, 'ReadingsPage'),
          page('boms/:key/revisions/:revision', boms, 'RevisionPage'),
          page('boms/:key/compare', boms, 'BomComparePage'),
          page('models', models, 'ModelList'),
          page('models/checks', models, 'ModelChecks'),
          page('models/twins', models, 'TwinsPage'),
          page('models/make-symbol', models, 'SymbolMaker'),
          page('models/make-land-pattern', models, 'LandMaker'),
          page('models/draw', models, 'DrawingEditor'),
          page('models/:id', models, 'ModelPage'),
          page('models/:id/draw', models, 'DrawingEditor'),
          page('deliveries', models, 'DeliveryList'),
          page('deliveries/:id', models, 'DeliveryPage'),
          page('parts/:key/pins', models, 'PinsPage'),
          page('cabinet', cabinet, 'CabinetPage'),
          page('crosswalks', cabinet, 'CrosswalksPage'),
          page('queue', lifecycles, 'QueuePage'),
          page('review/:id', lifecycles, 'ReviewPage'),
          page('review/:id/together', lifecycles, 'TogetherPage'),
          page('series', series, 'SeriesListPage'),
          page('series/:key', series, 'SeriesPage'),
          page('suppliers', suppliers, 'SuppliersPage'),
          page('offers', suppliers, 'OfferNewsPage'),
          page('connections', suppliers, 'ConnectionsPage'),
          page('wants', wants, 'WantsPage'),
          page('wants/:key', wants, 'WantPage'),
          page('lifecycles', lifecycles, 'LifecyclesPage'),
          page('notices', notices, 'NoticesPage'),
          page('readout', readout, 'ReadoutPage'),
          page('trail', trail, 'TrailPage'),
          page('people', people, 'PeoplePage'),
          page('you', people, 'YouPage'),
          { path: '*', element: <Astray /> },
        ],
      },
    ],
  },
]);
