import { useQuery, useQueryClient } from '@tanstack/react-query';
import { api, based, take, upload, type Schemas } from '../../api/client';
import { useAct } from '../../api/write';
import type { Chosen } from './FilesField';

export type BOM = Schemas['BOM'];
export type Line = Schemas['BOMLine'];
/** Whether nobody and nothing answers a line yet. */
export const unsettled = (l: Line) => ['proposed', 'several', 'not in the library'].includes(l.verdict);
/** How another BOM that a line is is called, with the revision that is taken. */
export const taken = (b: Schemas['BoardTaken']) =>
  [b.name, b.label && `revision ${b.label}`, b.variant && `variant ${b.variant}`].filter(Boolean).join(', ');
export type ColumnRole = Schemas['BOMColumn'];

export function useBoms() {
  return useQuery({ queryKey: ['boms'], queryFn: () => take(api.GET('/api/v1/boms', { params: { query: { limit: 200 } } })) });
}

/** A BOM with its verdicts: of all variants of its board, or of one. */
export function useBom(key: string, variant = '') {
  return useQuery({
    queryKey: variant ? ['bom', key, 'variant', variant] : ['bom', key],
    queryFn: () => take(api.GET('/api/v1/boms/{key}', { params: { path: { key }, query: { variant: variant || undefined } } })),
    placeholderData: (was) => was,
  });
}

/** Uploads what a BOM is read of: a file, or one of each variant of its board. */
async function uploaded(files: Chosen[]): Promise<Schemas['BOMFile']> {
  const kept = await Promise.all(files.map((c) => upload(c.file)));
  const [only] = kept;
  if (kept.length === 1 && only) return { fileHash: only.hash, fileName: only.name };
  return { files: kept.map((f, i) => ({ variant: files[i]?.variant ?? '', fileHash: f.hash, fileName: f.name })) };
}

export function useBringBom() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: async (v: { name: string; origin: string; files: Chosen[] }) =>
      take(api.POST('/api/v1/boms', { body: { ...(await uploaded(v.files)), name: v.name, origin: v.origin || undefined } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['boms'] }),
  });
}

/** The page as it is after an answer that has those lines alone which are otherwise. */
export function laidOver(page: BOM, answer: BOM): BOM {
  const at = new Map(answer.lines.map((l) => [l.row, l]));
  return { ...answer, partial: undefined, lines: page.lines.map((l) => at.get(l.row) ?? l) };
}

/** Decides for lines and gives the page as it is then: a page that is shown is only told what is otherwise. */
export function useChoose(key: string) {
  const queries = useQueryClient();
  return useAct({
    mutationFn: async (v: { id: string; version: number; body: Schemas['BOMChoices'] }) => {
      const shown = queries.getQueryData<BOM>(['bom', key]);
      const page = shown?.version === v.version ? shown : undefined;
      const answer = await take(
        api.POST('/api/v1/boms/{key}/choices', {
          params: { path: { key: v.id }, query: { lines: page && 'otherwise' }, header: based(v.version) },
          body: v.body,
        }),
      );
      return page && answer.partial ? laidOver(page, answer) : answer;
    },
    onSuccess: (b) => {
      queries.setQueryData(['bom', key], b);
      return queries.invalidateQueries({ queryKey: ['bom', key, 'variant'] });
    },
    onError: () => queries.invalidateQueries({ queryKey: ['bom', key] }),
  });
}

export function useSayBuild(key: string) {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (v: { id: string; version: number; boards: number; variant?: string; due?: string }) =>
      take(
        api.POST('/api/v1/boms/{key}/build', {
          params: { path: { key: v.id }, header: based(v.version) },
          body: { boards: v.boards, variant: v.variant, due: v.due },
        }),
      ),
    onSuccess: (b) => {
      queries.setQueryData(['bom', key], b);
      for (const queryKey of [
        ['bom', key, 'variant'],
        ['bom', key, 'cost'],
      ])
        void queries.invalidateQueries({ queryKey });
    },
    onError: () => queries.invalidateQueries({ queryKey: ['bom', key] }),
  });
}

export type UsedPart = Schemas['UsedPart'];

/** Where the parts are used that a question names; nothing is asked while nothing is named. */
export function useWhereUsed(kind: 'part' | 'mpn' | 'maker' | 'supplier' | 'model' | 'datasheet', about: string, instead: boolean) {
  return useQuery({
    queryKey: ['where-used', kind, about, instead],
    enabled: about !== '',
    queryFn: () => take(api.GET('/api/v1/where-used', { params: { query: { [kind]: about, instead, limit: instead ? 25 : 200 } } })),
  });
}

/** What putting a part in another's place would do: on all boards that take it, or on some. */
export function useReplacement(part: string, other: string, boms?: string[]) {
  return useQuery({
    queryKey: ['replacement', part, other, boms],
    enabled: other !== '' && boms?.length !== 0,
    gcTime: 0, // what is replaced is looked at anew each time
    queryFn: () => take(api.POST('/api/v1/replacements', { body: { part, with: other, boms } })),
  });
}

/** Does it, as it was looked at, or is refused. */
export function useReplacePart() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (v: Schemas['Replacement']) => take(api.POST('/api/v1/replacements', { body: v })),
    onError: () => queries.invalidateQueries({ queryKey: ['replacement'] }),
    onSuccess: async () => {
      for (const queryKey of [['where-used'], ['bom']]) await queries.invalidateQueries({ queryKey });
    },
  });
}

/** What people taught: for files like a BOM's, or for all. */
export function useReadings(bom: string) {
  return useQuery({
    queryKey: ['readings', bom],
    queryFn: () => take(api.GET('/api/v1/bom-readings', { params: { query: { bom: bom || undefined, limit: 500 } } })),
  });
}

export function useWithdrawReading() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (id: string) => take(api.POST('/api/v1/bom-readings/withdraw', { body: { id } })),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ['readings'] });
      await queries.invalidateQueries({ queryKey: ['bom'] });
    },
  });
}

export function useSayOrigin() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (v: Change<Schemas['BOMOrigin']>) =>
      take(api.POST('/api/v1/boms/{key}/origin', { params: { path: { key: v.id }, header: based(v.version) }, body: v.body })),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ['bom'] });
      await queries.invalidateQueries({ queryKey: ['readings'] });
    },
  });
}

/** Asks all suppliers for what they offer of the parts of a BOM. */
export function useRefreshOffers() {
  return useAct({ mutationFn: (bom: string) => take(api.POST('/api/v1/offers/refresh', { body: { bom } })) });
}

export function useSayColumns(key: string) {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (v: { id: string; columns: ColumnRole[] }) =>
      take(api.POST('/api/v1/boms/{key}/columns', { params: { path: { key: v.id } }, body: { columns: v.columns } })),
    onSuccess: (b) => queries.setQueryData(['bom', key], b),
  });
}

export function useSayEnding() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (e: { maker: string; letters: string }) =>
      take(api.POST('/api/v1/mpn-endings', { body: { maker: e.maker, ending: e.letters } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['bom'] }),
  });
}

export type Cost = Schemas['BOMCost'];
export type Frozen = Schemas['FrozenBOM'];
export type Comparison = Schemas['BOMComparison'];
export type Pinned = Schemas['BomPinned'];
export type Rules = Schemas['BuyingRules'];

/** What builds of a BOM come to; not asked for while it is not known which variant is meant. Another number of boards is shown once it is worked out. */
export function useCost(key: string, boards: number, revision: number, variant = '', known = true) {
  return useQuery({
    enabled: known,
    queryKey: ['bom', key, 'cost', boards, revision, variant],
    queryFn: () =>
      take(api.GET('/api/v1/boms/{key}/cost', { params: { path: { key }, query: { boards, revision, variant: variant || undefined } } })),
    placeholderData: (was) => was,
  });
}

export function useBomRevisions(key: string) {
  return useQuery({
    queryKey: ['bom', key, 'revisions'],
    queryFn: () => take(api.GET('/api/v1/boms/{key}/revisions', { params: { path: { key } } })),
  });
}

export function useBomRevision(key: string, revision: number) {
  return useQuery({
    queryKey: ['bom', key, 'revision', revision],
    queryFn: () => take(api.GET('/api/v1/boms/{key}/revisions/{revision}', { params: { path: { key, revision } } })),
  });
}

export function useComparison(key: string, revision: number, other: string, to: number, variant = '', otherOf = '') {
  return useQuery({
    queryKey: ['bom', key, 'compare', revision, other, to, variant, otherOf],
    placeholderData: (was) => was,
    queryFn: () =>
      take(
        api.GET('/api/v1/boms/{key}/compare', {
          params: {
            path: { key },
            query: { revision, with: other, to, variant: variant || undefined, 'with-variant': otherOf || undefined },
          },
        }),
      ),
  });
}

interface Change<Body> {
  id: string;
  version: number;
  body: Body;
}

export function useFreeze(key: string) {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (v: Change<Schemas['FreezeBOM']>) =>
      take(api.POST('/api/v1/boms/{key}/freeze', { params: { path: { key: v.id }, header: based(v.version) }, body: v.body })),
    onSuccess: (b) => {
      queries.setQueryData(['bom', key], b);
      return queries.invalidateQueries({ queryKey: ['bom', key, 'revisions'] });
    },
    onError: () => queries.invalidateQueries({ queryKey: ['bom', key] }),
  });
}

/** Accepts the findings of a cause in some lines, or takes that back, on the version that was seen. */
export function useAcceptFindings(seen: BOM) {
  return useWritten(seen, (body: Schemas['WaiveFindings']) =>
    take(api.POST('/api/v1/boms/{key}/waivers', { params: { path: { key: seen.id }, header: based(seen.version) }, body })),
  );
}

/** Takes the newer revisions of parts that the board holds on to older ones of. */
export function useMoveOn(seen: BOM) {
  return useWritten(seen, (parts: string[]) =>
    take(api.POST('/api/v1/boms/{key}/move-on', { params: { path: { key: seen.id }, header: based(seen.version) }, body: { parts } })),
  );
}

/** A change of a BOM after which all that is shown of it is asked for anew. */
function useWritten<Body>(seen: BOM, send: (body: Body) => Promise<BOM>) {
  const queries = useQueryClient();
  const anew = () => queries.invalidateQueries({ queryKey: ['bom'] });
  return useAct({ mutationKey: ['bom', seen.id], mutationFn: send, onSuccess: anew, onError: anew });
}

/** Functions that a board buys as several parts, as the lines are at a version. */
export function useFunctions(key: string, variant: string, version: number) {
  return useQuery({
    queryKey: ['bom', key, 'functions', variant, version],
    queryFn: () => take(api.GET('/api/v1/boms/{key}/functions', { params: { path: { key }, query: { variant: variant || undefined } } })),
    placeholderData: (was) => was,
  });
}

export function useSheetForms() {
  return useQuery({ queryKey: ['bom-sheets'], queryFn: () => take(api.GET('/api/v1/bom-sheets')) });
}
export function useApplySheetForms() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (v: { version: number; text: string }) =>
      take(api.PUT('/api/v1/bom-sheets', { params: { header: based(v.version) }, body: { text: v.text } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['bom-sheets'] }),
  });
}
export function useSeverities() {
  return useQuery({ queryKey: ['bom-severities'], queryFn: () => take(api.GET('/api/v1/bom-severities')) });
}

export function useApplySeverities() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (v: { version: number; text: string }) =>
      take(api.PUT('/api/v1/bom-severities', { params: { header: based(v.version) }, body: { text: v.text } })),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ['bom-severities'] });
      await queries.invalidateQueries({ queryKey: ['bom'] });
    },
  });
}

export function useSayBuying(key: string) {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (v: Change<Rules>) =>
      take(api.POST('/api/v1/boms/{key}/buying', { params: { path: { key: v.id }, header: based(v.version) }, body: v.body })),
    onSuccess: (b) => {
      queries.setQueryData(['bom', key], b);
      return queries.invalidateQueries({ queryKey: ['bom', key, 'cost'] });
    },
    onError: () => queries.invalidateQueries({ queryKey: ['bom', key] }),
  });
}

export function useRename() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (v: Change<Schemas['BOMName']>) =>
      take(api.POST('/api/v1/boms/{key}/name', { params: { path: { key: v.id }, header: based(v.version) }, body: v.body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['boms'] }),
  });
}

export function useRemoveBom() {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (v: { id: string; version: number }) =>
      take(api.POST('/api/v1/boms/{key}/remove', { params: { path: { key: v.id }, header: based(v.version) }, body: {} })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['boms'] }),
  });
}

export function useReplaceFile(key: string) {
  const queries = useQueryClient();
  return useAct({
    mutationFn: async (v: Change<Chosen[]>) =>
      take(
        api.POST('/api/v1/boms/{key}/file', {
          params: { path: { key: v.id }, header: based(v.version) },
          body: await uploaded(v.body),
        }),
      ),
    onSuccess: (b) => queries.setQueryData(['bom', key], b),
    onError: () => queries.invalidateQueries({ queryKey: ['bom', key] }),
  });
}

/** Notes that boards of a revision were built. */
export function useBuilt(key: string, revision: number) {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (body: Schemas['BuiltBOM']) =>
      take(api.POST('/api/v1/boms/{key}/revisions/{revision}/builds', { params: { path: { key, revision } }, body })),
    onSuccess: (f) => queries.setQueryData(['bom', key, 'revision', revision], f),
  });
}

/** What a build proposes as proved. */
export function useProof(key: string, revision: number, build: string) {
  return useQuery({
    queryKey: ['bom', key, 'proof', revision, build],
    queryFn: () => take(api.GET('/api/v1/boms/{key}/revisions/{revision}/builds/{build}', { params: { path: { key, revision, build } } })),
  });
}

export function useConfirmProof(key: string, revision: number, build: string) {
  const queries = useQueryClient();
  return useAct({
    mutationFn: (body: Schemas['ConfirmProof']) =>
      take(api.POST('/api/v1/boms/{key}/revisions/{revision}/builds/{build}', { params: { path: { key, revision, build } }, body })),
    onSuccess: (p) => {
      queries.setQueryData(['bom', key, 'proof', revision, build], p);
      return queries.invalidateQueries({ queryKey: ['bom', key, 'revision', revision] });
    },
  });
}
