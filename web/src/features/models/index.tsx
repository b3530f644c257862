export { ModelList } from './ModelList';
export { ModelPage } from './ModelPage';
export { TwinsPage } from './TwinsPage';
export { ModelChecks } from './ModelChecks';
export { LandMaker } from './LandMaker';
export { SymbolMaker } from './SymbolMaker';
export { DeliveryList, DeliveryPage } from './Deliveries';
export { PartDrawings, PartModels } from './PartModels';
export { PinsPage } from './PinsPage';
