import { useReachable } from './reachable.js';

/** Says that the server does not answer, for as long as that is so. */
export function ServerAway() {
  if (useReachable()) return null;
  return (
    <p role="alert" className="border-b border-line-2 bg-label px-4 py-1.5 text-to-many">
      ▲ The server does not answer. What you type is kept in this browser, and the page goes on by itself when it answers again.
    </p>
  );
}
