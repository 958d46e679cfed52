import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import { writtenInLines } from '../../../core/notation/index.js';
import type { DesignView, ParameterView, QueryView } from '../../../core/view-models/index.js';
import { headParameters } from './head.js';
import type { TriedRun } from './tried.js';

type Values = Readonly<Record<string, string>>;

/** The query that stands in the editor, which need not be one that the text keeps. */
export interface Draft {
  readonly text: string;
  /** Its parameters, as they are declared behind a query's name. */
  readonly head: string;
  readonly values: Values;
  readonly parameters: readonly ParameterView[];
  /** The query of the text that the address names; null where it names none. */
  readonly chosen: QueryView | null;
  /** The draft is that query, letter by letter. */
  readonly unchanged: boolean;
  /** The query of the text that was begun with and changed since; null where there is none. */
  readonly changed: string | null;
  write(text: string): void;
  declare(head: string): void;
  give(name: string, value: string): void;
  /** Takes up a query of the text. */
  pick(name: string): void;
  /** Takes up what was tried before. */
  takeUp(tried: TriedRun): void;
  /** Puts into the address what stands here, so that it can be sent to somebody. */
  tell(): void;
}

/**
 * What is drafted, kept up with the address: `query` names a query of the text, `text` and `head` are one that it does not keep,
 * and each `p.NAME` gives a parameter. Whoever is at work stands there on every screen.
 *
 * @param view null until the text was read
 * @param onOther called when another query is taken up than the one that stood here
 */
export function useDraft(view: DesignView | null, onOther: () => void): Draft {
  const [search, setSearch] = useSearchParams();
  const saved = search.get('query');
  const inAddress = search.get('text');
  // On one line of an address it may stand with `;` between its lines.
  const typed = inAddress === null ? null : writtenInLines(inAddress);
  const [text, write] = useState(typed ?? '');
  const [head, declare] = useState(search.get('head') ?? '');
  const [values, setValues] = useState<Values>(() => valuesIn(search));
  /** The query of the text that what stands here began with. */
  const [origin, setOrigin] = useState<string | null>(null);
  const queries = view?.queries ?? NONE;
  const chosen = queries.find(({ name }) => name === (saved ?? (typed === null ? origin : null))) ?? null;
  const isSame = (query: QueryView) => query.body === text && query.head === head;
  const unchanged = chosen !== null && isSame(chosen);

  const show = useCallback(
    (next: { readonly text: string; readonly head: string; readonly values: Values }, from: string | null) => {
      write(next.text);
      declare(next.head);
      setValues(next.values);
      setOrigin(from);
      onOther();
    },
    [onOther],
  );
  const pick = (name: string) => {
    const query = view?.queries.find((candidate) => candidate.name === name);
    if (query === undefined) return;
    show({ text: query.body, head: query.head, values: {} }, name);
    setSearch({ query: name, ...behalfIn(search) }, { replace: true });
  };

  // The address is followed whenever it changes, unless what it asks for stands here already. It is not written from here:
  // somebody may have gone elsewhere in the same moment, and would be called back.
  const address = typed === null ? `query ${saved}` : `text ${typed}`;
  const followed = useRef<string | null>(null);
  useEffect(() => {
    if (view === null || followed.current === address) return;
    const first = followed.current === null;
    followed.current = address;
    if (typed !== null) {
      if (typed !== writtenInLines(text)) show({ text: typed, head: search.get('head') ?? '', values: {} }, null);
      return;
    }
    const query = view.queries.find(({ name }) => name === saved) ?? (first ? view.queries[0] : undefined);
    if (query === undefined) {
      if (first && view.entities[0] !== undefined) write(`from ${view.entities[0].name}\nlimit 20`);
    } else if (query.body !== text || query.head !== head)
      show({ text: query.body, head: query.head, values: first ? values : {} }, query.name);
  }, [view, address, typed, saved, show, search, text, head, values]);

  const parameters = useMemo(
    () => (chosen !== null && chosen.head === head ? chosen.parameters : headParameters(head, view)),
    [chosen, head, view],
  );
  return {
    text,
    head,
    values,
    parameters,
    chosen,
    unchanged,
    changed: queries.find((query) => query.name === origin && !isSame(query))?.name ?? null,
    write,
    declare,
    give: (name, value) => setValues((before) => ({ ...before, [name]: value })),
    pick,
    takeUp: (tried) => {
      show(tried, null);
      setSearch({ ...addressOfText(tried.text, tried.head), ...behalfIn(search) }, { replace: true });
    },
    tell: () => {
      const given = parameters.flatMap(({ name }) => (values[name] === undefined ? [] : [[`p.${name}`, values[name]]]));
      const asked = chosen !== null && unchanged ? { query: chosen.name } : addressOfText(text, head);
      setSearch({ ...asked, ...Object.fromEntries(given), ...behalfIn(search) }, { replace: true });
    },
  };
}

const NONE: readonly never[] = [];

/** Whoever is at work stays so, whatever is asked. */
function behalfIn(search: URLSearchParams): { readonly as?: string } {
  const as = search.get('as');
  return as === null ? {} : { as };
}

function valuesIn(search: URLSearchParams): Values {
  const given = Array.from(search).filter(([name]) => name.startsWith('p.'));
  return Object.fromEntries(given.map(([name, value]) => [name.slice(2), value]));
}

function addressOfText(text: string, head: string): Record<string, string> {
  return { text, ...(head === '' ? {} : { head }) };
}
