import { Link, useLocation, useRouteError } from 'react-router';
import { Button, Empty, PageHead } from '../ui/kit';

/** An address that leads nowhere. */
export function Astray() {
  const { pathname } = useLocation();
  return (
    <>
      <PageHead title="There is no such page" />
      <Empty title={`Nothing lies at ${pathname}`}>
        A thing may have another number now: look for it with <kbd>/</kbd>, or go to{' '}
        <Link className="underline" to="/parts">
          the parts
        </Link>
        .
      </Empty>
    </>
  );
}

/** A page that could not be shown: its program did not come, or it failed. */
export function NotLoaded() {
  const error = useRouteError();
  const why = error instanceof Error ? error.message : '';
  return (
    <>
      <PageHead title="This page could not be shown" />
      <Empty title="It did not come, or it failed">
        <p>{why}</p>
        <p className="my-2">
          The service may have been renewed since this page was opened. What you typed and did not save is offered again.
        </p>
        <Button look="act" onClick={() => location.reload()}>
          Load it again
        </Button>
      </Empty>
    </>
  );
}
