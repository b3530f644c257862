/** The page of a thing, by its kind; of kinds that have none there is none. */
export function pageOfThing({ kind, id, number }: { kind: string; id: string; number: string }): string | undefined {
  switch (kind) {
    case 'part':
      return `/parts/${encodeURIComponent(number)}`;
    case 'want':
      return `/wants/${encodeURIComponent(number)}`;
    case 'model':
    case 'bom':
    case 'intake':
      return `/${kind}s/${id}`;
    case 'delivery':
      return `/deliveries/${id}`;
    case 'cabinet':
      return '/cabinet';
    case 'lifecycle':
      return `/lifecycles?name=${encodeURIComponent(number)}`;
    default:
      return undefined;
  }
}
