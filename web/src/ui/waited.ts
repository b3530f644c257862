/** How long something has waited, in the coarsest words that help. */
export function waited(since: string, now = Date.now()): string {
  const hours = (now - new Date(since).getTime()) / 3_600_000;
  if (hours < 1) return `${Math.max(0, Math.round(hours * 60))} min`;
  return hours < 48 ? `${Math.round(hours)} h` : `${Math.round(hours / 24)} days`;
}
