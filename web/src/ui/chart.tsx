import { useRef, type ReactNode } from 'react';
import { Menu } from './kit';

/** The drawing of a chart as a file of its own: with its size, and with the colours that it has on the page now. */
export function svgText(svg: SVGElement, colour: (name: string) => string): string {
  const copy = svg.cloneNode(true) as SVGElement;
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg');
  copy.setAttribute('font-family', 'sans-serif');
  for (const e of [copy, ...copy.querySelectorAll('*')]) {
    e.removeAttribute('class');
    e.removeAttribute('tabindex');
    for (const a of [...e.attributes]) {
      if (a.value.includes('var(')) a.value = a.value.replace(/var\((--[\w-]+)\)/g, (_, name: string) => colour(name));
    }
  }
  return `<?xml version="1.0" encoding="UTF-8"?>\n${copy.outerHTML}\n`;
}

/** Rows as CSV (RFC 4180); a text that a spreadsheet would take for a formula is kept as a text. */
export function csvText(head: string[], rows: (string | number)[][]): string {
  const cell = (v: string | number) => {
    const s = typeof v === 'string' && /^[=+\-@\t\r]/.test(v) ? `'${v}` : String(v);
    return /[",\n\r]/.test(s) ? `"${s.replaceAll('"', '""')}"` : s;
  };
  return [head, ...rows].map((r) => r.map(cell).join(',')).join('\r\n') + '\r\n';
}

function save(name: string, type: string, text: string) {
  const a = document.createElement('a');
  a.href = URL.createObjectURL(new Blob([text], { type }));
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), 1000);
}

/** A chart with its caption, that is saved as a drawing or as the figures that it is drawn from. */
export function ChartFigure({
  title,
  file,
  head,
  rows,
  children,
}: {
  title: string;
  /** What its files are called, without an ending. */
  file: string;
  head: string[];
  rows: (string | number)[][];
  children: ReactNode;
}) {
  const drawn = useRef<HTMLDivElement>(null);
  return (
    <figure>
      <figcaption className="flex items-baseline justify-between gap-2 text-xs font-semibold text-soft">
        {title}
        <Menu
          label={
            <>
              Save<span className="sr-only"> {title}</span>
            </>
          }
          items={[
            {
              text: 'As a drawing (SVG)',
              onSelect: () => {
                const svg = drawn.current?.querySelector('svg');
                const style = getComputedStyle(document.documentElement);
                if (svg)
                  save(
                    `${file}.svg`,
                    'image/svg+xml',
                    svgText(svg, (name) => style.getPropertyValue(name).trim() || 'currentColor'),
                  );
              },
            },
            { text: 'Its figures (CSV)', onSelect: () => save(`${file}.csv`, 'text/csv', csvText(head, rows)) },
          ]}
        />
      </figcaption>
      <div ref={drawn}>{children}</div>
    </figure>
  );
}
