import { keepPreviousData, useQueries, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, based, take, upload, type Schemas } from '../../api/client';
import { useAct } from '../../api/write';
import { usePagesInView } from '../../ui/paging';

export type Intake = Schemas['Intake'];
export type Row = Schemas['IntakeRow'];

export function useIntakes() {
  return useQuery({ queryKey: ['intakes'], queryFn: () => take(api.GET('/api/v1/intakes', { params: { query: { limit: 200 } } })) });
}

export function useIntake(id: string) {
  return useQuery({ queryKey: ['intake', id], queryFn: () => take(api.GET('/api/v1/intakes/{id}', { params: { path: { id } } })) });
}

const pageSize = 200;

interface Answer<Row> {
  page: Schemas['Page'];
  items: Row[];
}

/** A long list: only the pages that are looked at are asked for, however long it is. */
function useLongList<Row>(key: unknown[], ask: (offset: number, signal: AbortSignal) => Promise<Answer<Row>>, enabled = true) {
  const { pages, onView } = usePagesInView(pageSize);
  const answers = useQueries({
    queries: pages.map((p) => ({
      queryKey: [...key, p],
      enabled,
      placeholderData: keepPreviousData,
      queryFn: ({ signal }: { signal: AbortSignal }) => ask(p * pageSize, signal),
    })),
  });
  const total = answers[0]?.data?.page.total ?? 0;
  const rows: (Row | undefined)[] = [];
  answers.forEach((a, i) => {
    a.data?.items.forEach((row, k) => {
      const at = (pages[i] ?? 0) * pageSize + k;
      if (at < total) rows[at] = row;
    });
  });
  return { rows, total, onView, answered: answers[0]?.isSuccess ?? false, error: answers.find((a) => a.error)?.error };
}

/** The rows of one state or cause, or all. */
export function useRows(id: string, version: number | undefined, digest: string, state: string, cause: string) {
  return useLongList<Row>(
    ['intake-rows', id, version, digest, state, cause],
    (offset, signal) =>
      take(api.GET('/api/v1/intakes/{id}/rows', { signal, params: { path: { id }, query: { state, cause, offset, limit: pageSize } } })),
    version !== undefined,
  );
}

/** What was decided about the rows of an intake, all or what stands in one way. */
export function useIntakeDecisions(id: string, version: number, fate: string) {
  return useLongList(['intake-decisions', id, version, fate], (offset, signal) =>
    take(
      api.GET('/api/v1/intakes/{id}/decisions', {
        signal,
        params: { path: { id }, query: { ...(fate && { fate: fate as 'holds' }), offset, limit: pageSize } },
      }),
    ),
  );
}

/** What was decided about the rows of all files, or of one supplier's. */
export function useAllDecisions(supplier: string, withdrawn: boolean) {
  return useLongList(['decisions', supplier, withdrawn], (offset, signal) =>
    take(
      api.GET('/api/v1/decisions', { signal, params: { query: { ...(supplier && { supplier }), withdrawn, offset, limit: pageSize } } }),
    ),
  );
}

export function useWithdraw() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (ids: string[]) => take(api.POST('/api/v1/decisions/withdraw', { body: { ids } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['decisions'] }),
  });
}

/** One row with its cells as they came. */
export function useRow(id: string, version: number | undefined, row: number | undefined) {
  return useQuery({
    queryKey: ['intake-row', id, version, row],
    enabled: row !== undefined,
    queryFn: () => take(api.GET('/api/v1/intakes/{id}/rows/{row}', { params: { path: { id, row: row ?? 0 } } })),
  });
}

/** What a rule would do to the rows, before and after. */
export function useTryRule(id: string, version: number, rule: Schemas['CrosswalkRule'] | undefined) {
  return useQuery({
    queryKey: ['intake-rule', id, version, rule],
    enabled: rule !== undefined && rule.to !== '',
    placeholderData: keepPreviousData,
    queryFn: () => take(api.POST('/api/v1/intakes/{id}/rule', { params: { path: { id } }, body: { rule: rule ?? { to: '' } } })),
  });
}

/** Changes that are not edits of the rows: taking back, going over again, fetching datasheets, adding a choice. */
export function useIntakeDeeds(id: string) {
  const queries = useQueryClient();
  const refresh = () => queries.invalidateQueries({ queryKey: ['intake', id] });
  return {
    takeBack: useAct({
      mutationFn: (v: { version: number; why: string }) =>
        take(
          api.POST('/api/v1/intakes/{id}/take-back', {
            params: { path: { id }, header: based(v.version) },
            body: { why: v.why },
          }),
        ),
      onSuccess: refresh,
    }),
    again: useAct({
      mutationFn: () => take(api.POST('/api/v1/intakes/{id}/again', { params: { path: { id } } })),
    }),
    fetch: useAct({
      mutationFn: () => take(api.POST('/api/v1/intakes/{id}/datasheets', { params: { path: { id } } })),
      onSuccess: refresh,
    }),
    numbers: useAct({
      mutationFn: () => take(api.POST('/api/v1/intakes/{id}/numbers', { params: { path: { id } }, body: {} })),
      onSuccess: refresh,
    }),
    stated: useAct({
      mutationFn: (body: Schemas['MoveStated']) => take(api.POST('/api/v1/intakes/{id}/standings', { params: { path: { id } }, body })),
      onSuccess: () => queries.invalidateQueries(),
    }),
    choice: useAct({
      mutationFn: (body: Schemas['IntakeNewChoice']) => take(api.POST('/api/v1/cabinet/choices', { body })),
      onSuccess: () => queries.invalidateQueries(),
    }),
  };
}

export function useSuppliers() {
  return useQuery({ queryKey: ['crosswalks'], queryFn: () => take(api.GET('/api/v1/crosswalks', { params: { query: { limit: 500 } } })) });
}

export function useOpenIntake() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: async (v: { supplier: string; file: File }) => {
      const f = await upload(v.file);
      return take(api.POST('/api/v1/intakes', { body: { supplier: v.supplier, fileHash: f.hash, fileName: f.name } }));
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ['intakes'] }),
  });
}

export function useEditIntake(id: string) {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (v: { version: number; body: Schemas['IntakeEdit'] }) =>
      take(api.POST('/api/v1/intakes/{id}/edits', { params: { path: { id }, header: based(v.version) }, body: v.body })),
    onSuccess: (i) => queries.setQueryData(['intake', id], i),
  });
}

export function useTakeIn(id: string) {
  const queries = useQueryClient();
  return useAct({
    mutationFn: ({ version, ...body }: { version: number } & Schemas['TakeIn']) =>
      take(
        api.POST('/api/v1/intakes/{id}/take-in', {
          params: { path: { id }, header: based(version) },
          body,
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['intake', id] }),
  });
}

export function useStopJob() {
  return useAct({ mutationFn: (id: string) => take(api.POST('/api/v1/jobs/{id}/stop', { params: { path: { id } } })) });
}

export type Rule = Schemas['CrosswalkRule'];

/** The places of a row that identify it. */
export const places = [
  'number',
  'kind',
  'manufacturer',
  'mpn',
  'supplierNumber',
  'description',
  'datasheet',
  'state',
  'designator',
  'stock',
  'price',
  'currency',
];

const placeWords: Record<string, string> = {
  number: 'our part number',
  kind: 'kind of part',
  manufacturer: 'manufacturer',
  mpn: 'MPN',
  supplierNumber: 'supplier number',
  description: 'description',
  datasheet: 'datasheet link',
  state: 'how the product stands',
  designator: 'designator',
  stock: 'stock, for offers',
  price: 'price, for offers',
  currency: 'currency of the price',
};

/** What a rule or suggestion fills, in words. */
export function targetWords(to: string, parameters: readonly { key: string; label: string }[]) {
  if (to === '@leading') return 'each drawer’s leading parameter';
  if (to.startsWith('take.')) return placeWords[to.slice(5)] ?? to.slice(5);
  return parameters.find((p) => p.key === to)?.label ?? to;
}
