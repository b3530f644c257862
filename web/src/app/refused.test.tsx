// @vitest-environment jsdom
import { screen } from '@testing-library/react';
import { expect, it } from 'vitest';
import { BomList } from '../features/boms/BomList';
import { CabinetPage } from '../features/cabinet/CabinetPage';
import { CrosswalksPage } from '../features/cabinet/CrosswalksPage';
import { IntakeList } from '../features/intakes/IntakeList';
import { QueuePage } from '../features/lifecycles/QueuePage';
import { DeliveryList } from '../features/models/Deliveries';
import { ModelList } from '../features/models/ModelList';
import { NoticesPage } from '../features/notices/NoticesPage';
import { PartsPage } from '../features/parts';
import { SeriesListPage } from '../features/series/SeriesListPage';
import { WantsPage } from '../features/wants/WantsPage';
import { Refusal, service, show } from '../ui/testing';

const pages = {
  '/boms': BomList,
  '/cabinet': CabinetPage,
  '/crosswalks': CrosswalksPage,
  '/intakes': IntakeList,
  '/queue': QueuePage,
  '/deliveries': DeliveryList,
  '/models': ModelList,
  '/notices': NoticesPage,
  '/parts': PartsPage,
  '/series': SeriesListPage,
  '/wants': WantsPage,
};

// What could not be asked is not said to be empty: somebody would begin to make what is there.
it.each(Object.entries(pages))('%s says why it has no answer, and not that there is nothing', async (path, Page) => {
  service([], { [path]: new Refusal(503, 'away', 'The database is away.') });
  show(<Page />);
  expect((await screen.findAllByText(/The database is away\./)).length).toBeGreaterThan(0);
  expect(screen.queryByText(/is empty|Nothing fits|No .* yet|no cabinet yet|No model fits|Nothing (was|waits)/i)).toBeNull();
});
