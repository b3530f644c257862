import { DropdownMenu } from 'radix-ui';
import { Button } from './kit';

/**
 * A choice that takes effect at once. It is made in three steps, open, choose, confirm: an arrow key on the closed control
 * changes nothing, and neither does a letter.
 */
export function Choose({
  label,
  text,
  options,
  value,
  onChoose,
}: {
  /** What is chosen, for those who hear the page. */
  label: string;
  /** What the closed control shows. */
  text: string;
  options: { value: string; text: string }[];
  value?: string;
  onChoose: (value: string) => void;
}) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button aria-label={`${label}: ${text}`}>
          {text} <span aria-hidden="true">▾</span>
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          loop
          className="z-30 max-h-[min(24rem,var(--radix-dropdown-menu-content-available-height))] min-w-48 overflow-auto rounded border border-line bg-sheet p-1 shadow-lg"
        >
          <DropdownMenu.RadioGroup value={value ?? ''} onValueChange={onChoose}>
            {options.map((o) => (
              <DropdownMenu.RadioItem
                key={o.value}
                value={o.value}
                className="flex cursor-pointer gap-2 rounded px-2 py-1 text-sm outline-none data-[highlighted]:bg-tint"
              >
                <span aria-hidden="true" className="w-3">
                  {o.value === value ? '●' : ''}
                </span>
                {o.text}
              </DropdownMenu.RadioItem>
            ))}
          </DropdownMenu.RadioGroup>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
