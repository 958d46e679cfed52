import type { Schema, Table } from '../schema/index.js';
import type { SqlExpression, Trigger, TriggerAction } from '../sql/index.js';
import { printChange, printExpression, type Spelling } from './printer.js';

/** A trigger with its expressions printed, for a dialect to put together. */
export interface PrintedTrigger extends Pick<Trigger, 'name' | 'table' | 'timing' | 'event' | 'columns'> {
  readonly when: string | null;
  /** Of a refusal the condition and the message, of a change the statement. */
  readonly actions: readonly (
    | { readonly kind: 'refuse'; readonly when: string; readonly message: string }
    | { readonly kind: 'run'; readonly sql: string }
  )[];
}

/** How a dialect writes its triggers: as many statements as it takes for each. */
export interface TriggerPrinter {
  statements(trigger: Trigger): string[];
  /** The statements that make all triggers of a schema, its own and those that somebody else wrote. */
  ofSchema(schema: Pick<Schema, 'tables'>): string[];
}

/** @param write puts a trigger together from what is printed of it */
export function triggerPrinter(spelling: Spelling, write: (trigger: PrintedTrigger) => string[]): TriggerPrinter {
  const print = (expression: SqlExpression) => printExpression(expression, spelling);
  const action = (one: TriggerAction): PrintedTrigger['actions'][number] =>
    one.kind === 'run'
      ? { kind: 'run', sql: printChange(one.change, spelling) }
      : { kind: 'refuse', when: print(one.when), message: one.message };
  const statements = (trigger: Trigger) =>
    write({ ...trigger, when: trigger.when === null ? null : print(trigger.when), actions: trigger.actions.map(action) });
  const ofTable = ({ triggers }: Table) => triggers.flatMap((one) => (one.kind === 'made' ? statements(one.trigger) : [one.sql]));
  return { statements, ofSchema: ({ tables }) => tables.flatMap(ofTable) };
}
