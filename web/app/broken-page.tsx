import { Link, useRouteError } from 'react-router';
import { Button } from '../parts/button.js';

/** Stands in place of a page that this program could not draw. */
export function BrokenPage() {
  const error = useRouteError();
  return (
    <main className="mx-auto max-w-xl p-16">
      <h1 className="font-serif text-title font-semibold">This page could not be drawn.</h1>
      <p className="mt-2">
        That is a fault of Family Tree. What you typed is kept, in this browser and on the server. Load the page again, or go to{' '}
        <Link to="/" className="text-selected underline">
          the shelf
        </Link>
        .
      </p>
      <p className="mt-4">
        <Button onClick={() => location.reload()}>Load again</Button>
      </p>
      <pre className="mt-6 overflow-auto whitespace-pre-wrap font-mono text-small text-ink-2">
        {error instanceof Error ? error.message : String(error)}
      </pre>
    </main>
  );
}
