import { useState } from 'react';
import { rowText } from '../../../core/edits/index.js';
import { textExpression } from '../../../core/notation/index.js';
import type { DesignView, EntityView, ParameterView } from '../../../core/view-models/index.js';
import { useExpectationsQuery } from '../../app/api.js';
import { useRowsReady } from '../../app/rows-ready.js';
import { useAppSelector } from '../../app/store.js';
import { useClick } from '../../app/use-click.js';
import { RunItem } from '../findings/as-expected.js';
import { nameOf } from '../rows/edit/entries.js';

/** What a run of a saved query brought. */
export interface Seen {
  readonly rows: number;
  readonly statements: number;
}

interface ExpectedProps {
  readonly tree: string;
  readonly view: DesignView;
  /** The saved query. */
  readonly query: string;
  readonly parameters: readonly ParameterView[];
  readonly values: Readonly<Record<string, string>>;
  /** What the last run of it brought; null where it was not run, or failed. */
  readonly seen: Seen | null;
}

/** What the text expects of a query, and how it came out; and with a click, that what is seen is expected from now on. */
export function Expected({ tree, view, query, parameters, values, seen }: ExpectedProps) {
  const ready = useRowsReady();
  const isServer = useAppSelector((state) => state.workspace.tree?.inUse.kind === 'server');
  const own = view.expectations.filter((one) => one.query === query);
  const { data } = useExpectationsQuery({ tree }, { skip: !ready || own.length === 0 || isServer });
  const runs = data?.ok === true ? data.runs.filter((run) => run.query === query) : [];
  const click = useClick();
  const [problem, setProblem] = useState('');
  const args = argumentsOf(parameters, values, view.entities);
  const keep = async () => {
    if (seen === null || args === null) return;
    const lines = [`rows ${seen.rows}`, `statements at most ${seen.statements}`];
    const subject = args === '' ? query : `${query}(${args})`;
    const problems = await click({ kind: 'add expectation', subject, lines }, `expect of ${query} what is seen`);
    setProblem(problems[0] ?? '');
  };
  if (own.length === 0 && seen === null) return null;
  return (
    <section aria-label="Expected" className="mt-4">
      {own.length > 0 && <h3 className="font-serif text-ink-2 italic">Expected</h3>}
      <ul>
        {runs.map((run) => (
          <RunItem key={run.span.start} run={run} />
        ))}
      </ul>
      {seen !== null && args !== null && (
        <button type="button" className="mt-1 text-small text-selected hover:underline" onClick={() => void keep()}>
          Expect what is seen: {seen.rows.toLocaleString('en')} {seen.rows === 1 ? 'row' : 'rows'}, {seen.statements}{' '}
          {seen.statements === 1 ? 'statement' : 'statements'} at most
        </button>
      )}
      {problem !== '' && (
        <p role="alert" className="text-small text-harm">
          {problem}
        </p>
      )}
    </section>
  );
}

const PLAIN: readonly string[] = ['integer', 'bigint', 'decimal', 'real', 'true or false', 'boolean'];

/** The values of a query as an expectation gives them; null where one of them cannot be written there. */
export function argumentsOf(
  parameters: readonly ParameterView[],
  values: Readonly<Record<string, string>>,
  entities: readonly EntityView[],
): string | null {
  const written: string[] = [];
  for (const { name, entity, many, type } of parameters) {
    const value = (values[name] ?? '').trim();
    if (many) return null;
    if (value === '') written.push('null');
    else if (entity !== null) {
      const row = /[[(]/.test(value) && !value.startsWith('[') ? null : nameOf(entity, value, entities);
      written.push(row === null ? value : rowText(row));
    } else written.push(PLAIN.some((word) => type.startsWith(word)) ? value : textExpression(value));
  }
  while (written.at(-1) === 'null') written.pop();
  return written.join(', ');
}
