import { Link } from 'react-router';

/** The page of an address that leads nowhere. */
export function NotFound() {
  return (
    <main className="mx-auto max-w-xl p-16">
      <h1 className="font-serif text-title font-semibold">Nothing is at this address.</h1>
      <p className="mt-2">
        <Link to="/" className="text-selected underline">
          Go to the shelf
        </Link>
        , where your trees are.
      </p>
    </main>
  );
}
