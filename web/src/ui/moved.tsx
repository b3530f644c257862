/** Says in a dialog that the thing it is about was changed since the dialog was opened: what is sent names what was looked at. */
export function Moved({ was, now }: { was: { version: number }; now: { version: number } }) {
  if (now.version === was.version) return null;
  return (
    <p role="status" className="rounded border border-amber bg-amber-tint px-3 py-1.5 text-sm">
      <span aria-hidden="true">◐ </span>
      Somebody changed it while this is open. Close this and look at it again; what you send now is refused.
    </p>
  );
}
