import { Link } from 'react-router';
import { isCommands } from '../../../core/notation/index.js';
import { workedAs } from '../../app/actor.js';
import { tryLink } from '../../app/links.js';
import { useAppDispatch } from '../../app/store.js';

/** What was tried on somebody's behalf: a click opens it on Try, as they see it. */
export function TriedText({ tree, as, text }: { readonly tree: string; readonly as: string; readonly text: string }) {
  const dispatch = useAppDispatch();
  const isSaved = /^\w+$/.test(text);
  const shown = text.replace(/\s*\n\s*/g, ' ');
  const to = isSaved ? `/tree/${tree}/try?query=${encodeURIComponent(text)}` : tryLink(tree, text);
  return (
    <p className="mt-1 font-mono text-small">
      {isSaved || isCommands(text) || text.startsWith('from ') ? (
        <Link to={to} className="text-selected hover:underline" onClick={() => dispatch(workedAs(as))}>
          {shown}
        </Link>
      ) : (
        shown
      )}{' '}
      <span className="font-sans text-ink-2">as {as}</span>
    </p>
  );
}
