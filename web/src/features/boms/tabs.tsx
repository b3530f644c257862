import { NavLink } from 'react-router';

const tabs = [
  { to: '', text: 'Lines' },
  { to: '/cost', text: 'Cost' },
  { to: '/revisions', text: 'Revisions' },
  { to: '/learned', text: 'Learned' },
];

/** The pages of one BOM. */
export function BomTabs({ name }: { name: string }) {
  return (
    <nav aria-label="Pages of this BOM" className="flex gap-1 border-b border-line bg-sheet px-4 text-sm">
      {tabs.map((t) => (
        <NavLink
          key={t.to}
          end
          to={`/boms/${encodeURIComponent(name)}${t.to}`}
          className={({ isActive }) =>
            `border-b-2 px-2 py-1 ${isActive ? 'border-amber font-semibold' : 'border-transparent text-soft hover:text-ink'}`
          }
        >
          {t.text}
        </NavLink>
      ))}
    </nav>
  );
}
