import { createBrowserRouter, Navigate } from 'react-router';
import { BomList, BomPage } from '../features/boms';
import { CabinetPage, CrosswalksPage } from '../features/cabinet';
import { IntakeList, IntakePage } from '../features/intakes';
import { ModelList, ModelPage } from '../features/models';
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
      { path: 'models/:id', element: <ModelPage /> },
      { path: 'cabinet', element: <CabinetPage /> },
      { path: 'crosswalks', element: <CrosswalksPage /> },
    ],
  },
]);
