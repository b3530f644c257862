import { createBrowserRouter, Navigate } from 'react-router';
import { BomList, BomPage } from '../features/boms';
import { CabinetPage, CrosswalksPage } from '../features/cabinet';
import { IntakeList, IntakePage } from '../features/intakes';
import { DeliveryList, DeliveryPage, ModelChecks, ModelList, ModelPage, PinsPage, SymbolMaker, TwinsPage } from '../features/models';
import { ComparePage, NewPart, PartPage, PartsPage } from '../features/parts';
import { Shell } from './Shell';

export const router = createBrowserRouter([
  {
    path: '/',
    element: <Shell />,
    children: [
      { index: true, element: <Navigate to="/parts" replace /> },
      { path: 'parts', element: <PartsPage /> },
      { path: 'parts/new', element: <NewPart /> },
      { path: 'compare', element: <ComparePage /> },
      { path: 'parts/:key', element: <PartPage /> },
      { path: 'intakes', element: <IntakeList /> },
      { path: 'intakes/:id', element: <IntakePage /> },
      { path: 'boms', element: <BomList /> },
      { path: 'boms/:key', element: <BomPage /> },
      { path: 'models', element: <ModelList /> },
      { path: 'models/checks', element: <ModelChecks /> },
      { path: 'models/twins', element: <TwinsPage /> },
      { path: 'models/make-symbol', element: <SymbolMaker /> },
      { path: 'models/:id', element: <ModelPage /> },
      { path: 'deliveries', element: <DeliveryList /> },
      { path: 'deliveries/:id', element: <DeliveryPage /> },
      { path: 'parts/:key/pins', element: <PinsPage /> },
      { path: 'cabinet', element: <CabinetPage /> },
      { path: 'crosswalks', element: <CrosswalksPage /> },
    ],
  },
]);
