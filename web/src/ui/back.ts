/** Where somebody came from who needs a part: a want, or a board; what is taken is brought back there. */
export function backWith(params: URLSearchParams, part: string): string {
  const back = params.get('back') ?? '';
  const here = /^\/(wants|boms)\/[^/?#\\]+$/.exec(back);
  return here ? `${back}?part=${encodeURIComponent(part)}` : `/parts/${encodeURIComponent(part)}`;
}
