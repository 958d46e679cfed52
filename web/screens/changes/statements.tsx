import { useState } from 'react';
import type { DesignDatabase, PlannedChanges } from '../../../contract/index.js';
import { Sql } from '../../parts/sql.js';
import { HandStepDialog } from './hand-step.js';

type Statement = PlannedChanges['operations'][number];

/** The statements that make a change, in working order; a person may put one of their own before, after or in place of each. */
export function Statements({
  plan,
  table,
  dialect,
  onSay,
}: {
  readonly plan: PlannedChanges;
  readonly table: string | null;
  readonly dialect: DesignDatabase['dialect'];
  onSay(lines: string): void;
}) {
  const [at, setAt] = useState<Statement | null>(null);
  const statements = plan.operations.filter((operation) => operation.table === table);
  return (
    <ol className="space-y-2">
      {statements.map((statement) => (
        <li key={`${statement.what}\n${statement.sql}`}>
          <p className="flex items-baseline gap-3 text-small text-ink-2">
            <span className={statement.byHand ? 'font-semibold text-ink' : ''}>{statement.what}</span>
            {!statement.byHand && plan.undoes === null && (
              <button
                type="button"
                className="ml-auto whitespace-nowrap underline underline-offset-2 hover:text-ink"
                aria-label={`By hand, at: ${statement.what}`}
                title="A statement of your own before it, after it or in its place"
                onClick={() => setAt(statement)}
              >
                By hand…
              </button>
            )}
          </p>
          <Sql text={`${statement.sql.trimEnd()};`} label={`SQL: ${statement.what}`} />
        </li>
      ))}
      {at !== null && (
        <HandStepDialog
          statement={at}
          isOnly={statements.filter(({ what }) => what === at.what).length === 1}
          dialect={dialect}
          onSay={onSay}
          onClose={() => setAt(null)}
        />
      )}
    </ol>
  );
}
