import { Fragment } from 'react';
import { Link } from 'react-router';
import { rowLink } from './links.js';
import { useAppSelector } from './store.js';

/** What was refused, in words; each row that is named in it, as `Player(3)`, is a link to it. */
export function Refusal({ text }: { readonly text: string }) {
  const tree = useAppSelector((state) => state.workspace.tree?.id ?? '');
  const entities = useAppSelector((state) => state.workspace.view?.entities);
  const known = (name: string) => entities?.some((entity) => entity.name === name) === true;
  return (
    <>
      {partsOf(text).map((part) =>
        part.row !== null && known(part.row.entity) ? (
          <Link key={part.at} to={rowLink(tree, part.row.entity, part.row.key)} className="underline underline-offset-2">
            {part.text}
          </Link>
        ) : (
          <Fragment key={part.at}>{part.text}</Fragment>
        ),
      )}
    </>
  );
}

interface Part {
  readonly at: number;
  readonly text: string;
  /** The row that it names; null for other words. */
  readonly row: { readonly entity: string; readonly key: string } | null;
}

/** A text taken apart at the rows that it names. */
export function partsOf(text: string): readonly Part[] {
  const parts: Part[] = [];
  let at = 0;
  for (const { index, 0: whole, 1: entity = '', 2: key = '' } of text.matchAll(/\b([A-Z]\w*)\(([\w-]+)\)/g)) {
    if (index > at) parts.push({ at, text: text.slice(at, index), row: null });
    parts.push({ at: index, text: whole, row: { entity, key } });
    at = index + whole.length;
  }
  if (at < text.length) parts.push({ at, text: text.slice(at), row: null });
  return parts;
}
