/** A drawing from the service in the ink that suits the theme. Only the one that is shown is asked for. */
export function Drawing({ src, alt }: { src: string; alt: string }) {
  const at = (theme: string) => src + (src.includes('?') ? '&' : '?') + `theme=${theme}`;
  const style = 'mx-auto h-full w-full object-contain';
  return (
    <>
      <img src={at('day')} alt={alt} loading="lazy" className={`by-day ${style}`} />
      <img src={at('night')} alt={alt} loading="lazy" className={`by-night ${style}`} />
    </>
  );
}
