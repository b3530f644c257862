import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { api, based, take, type Schemas } from '../../api/client';
import { useAct, useWrite } from '../../api/write';

export type Part = Schemas['Part'];
export type PartRow = Schemas['PartRow'];
export type Content = Schemas['PartContent'];
export type Edit = Schemas['PartEdit'];

export function usePart(key: string) {
  return useQuery({ queryKey: ['part', key], queryFn: () => take(api.GET('/api/v1/parts/{key}', { params: { path: { key } } })) });
}

/** A part as the beginning of another: what of it names the old one's MPN is left out by the service. */
export function useCopy(key: string) {
  return useQuery({
    queryKey: ['copy', key],
    enabled: key !== '',
    queryFn: () => take(api.GET('/api/v1/parts/{key}/copy', { params: { path: { key } } })),
  });
}

/** The part that is shown beside a list: the one before stays until the next is there. */
export function usePartBeside(key: string | undefined) {
  return useQuery({
    queryKey: ['part', key],
    enabled: key !== undefined,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => take(api.GET('/api/v1/parts/{key}', { signal, params: { path: { key: key ?? '' } } })),
  });
}

export function useDiff(key: string, from: number, to: number, on: boolean) {
  return useQuery({
    queryKey: ['diff', key, from, to],
    enabled: on,
    queryFn: () => take(api.GET('/api/v1/parts/{key}/diff', { params: { path: { key }, query: { from, to } } })),
  });
}

export function useModelNames(kind: 'symbol' | 'land pattern' | 'body') {
  return useQuery({
    queryKey: ['models', kind, 'names'],
    queryFn: () => take(api.GET('/api/v1/models', { params: { query: { kind, limit: 500 } } })),
  });
}

export function useSaveDraft(key: string) {
  return useWrite((v: { version: number; body: Edit }) =>
    take(api.PUT('/api/v1/parts/{key}/draft', { params: { path: { key }, header: based(v.version) }, body: v.body })),
  );
}

/** Fetching the files of datasheets that a part only links to, as a job. */
export function useFetchLinked(part: string) {
  return useAct({ mutationFn: () => take(api.POST('/api/v1/parts/datasheets', { body: { parts: [part] } })) });
}

/** What a text or a record says of one part; nothing is saved. */
export function useReadPart() {
  return useAct({ mutationFn: (body: Schemas['ReadPart']) => take(api.POST('/api/v1/part-readings', { body })) });
}

export function useRecords(number: string) {
  return useQuery({
    queryKey: ['records', number],
    enabled: number !== '',
    queryFn: () => take(api.GET('/api/v1/records', { params: { query: { number } } })),
  });
}

export function useMakePart() {
  return useWrite((body: Edit) => take(api.POST('/api/v1/parts', { body })));
}

export function useGoBack(key: string) {
  return useWrite((v: { version: number; body: Schemas['GoBack'] }) =>
    take(api.POST('/api/v1/parts/{key}/back', { params: { path: { key }, header: based(v.version) }, body: v.body })),
  );
}

export function useMerge(part: Part) {
  return useWrite((body: Schemas['Merge']) =>
    take(api.POST('/api/v1/parts/{key}/merge', { params: { path: { key: part.id }, header: based(part.version) }, body })),
  );
}

export function useSuccessor(part: Part) {
  return useWrite((body: Schemas['SuccessorEdit']) =>
    take(api.POST('/api/v1/parts/{key}/successor', { params: { path: { key: part.id }, header: based(part.version) }, body })),
  );
}

export function useFormerNumber(part: Part) {
  return useWrite((body: Schemas['FormerNumber']) =>
    take(api.POST('/api/v1/parts/{key}/former-numbers', { params: { path: { key: part.id }, header: based(part.version) }, body })),
  );
}

/** Parts that an edit would equal in the identifying parameters; asked while it is typed. */
export function useAlike(edit: Edit) {
  return useQuery({
    queryKey: ['alike', edit.drawer, edit.values],
    enabled: edit.drawer !== '',
    queryFn: () => take(api.POST('/api/v1/alike', { body: { drawer: edit.drawer, values: edit.values } })),
  });
}

export function useComparison(parts: string[]) {
  return useQuery({
    queryKey: ['comparison', parts],
    enabled: parts.length > 1,
    queryFn: () => take(api.GET('/api/v1/comparison', { params: { query: { part: parts } } })),
  });
}

/** The edit that would change nothing: the start of every change. */
export function asEdit(c: Content): Edit {
  return {
    drawer: c.drawer,
    name: c.name,
    description: c.description,
    values: Object.fromEntries(c.values.filter((v) => v.text !== '').map((v) => [v.key, v.text])),
    sources: c.sources,
    datasheets: c.datasheets,
    datasheetLinks: c.datasheetLinks,
    symbol: c.symbol,
    landPattern: c.landPattern,
    pinMap: c.pinMap,
    otherLandPatterns: c.otherLandPatterns,
    attachments: c.attachments,
    body: c.body,
  };
}
