import type { HeldKeys } from '../core/audit/index.js';
import type { Design } from '../core/design/index.js';
import type { ActorName } from '../core/model/index.js';
import { type Select, selectOf, type TableName, tableSource, withSources } from '../core/sql/index.js';
import type { CallOptions, Engine } from '../engines/index.js';
import type { LookedAt } from './looked-at.js';
import { wallsAsScript } from './walls-as-script.js';

/** How a database holds the walls of a text itself: by what a script has put into it. */
export interface HeldByDatabase {
  readonly how: 'views' | 'policies';
  /** The role that sessions work as; null for the login's own, which policies do not keep where it owns the tables. */
  readonly role: string | null;
}

/** What is asked in sessions that the database keeps rows from: nothing of this program stands between. */
export interface AuditSession {
  /** The design without its walls. */
  readonly design: Design;
  /** The database as those sessions have it. */
  readonly engine: Engine;
  /** What a session says before it reads. */
  readonly said: readonly string[];
  /** What may become of keys that lead to rows out of reach. */
  readonly heldKeys: readonly HeldKeys[];
}

/** The sessions of somebody, by the script of a text; or why there are none. */
export function sessionsOf(
  { design, engine }: Pick<LookedAt, 'design' | 'engine'>,
  { how, role }: HeldByDatabase,
  named: ActorName,
): AuditSession | { readonly problem: string } {
  const script = wallsAsScript(design, how);
  if ('problem' in script) return script;
  if (script.statements.length === 0) return { problem: script.notes.join(' ') };
  const { atWork, policies } = design.dialect;
  if (role !== null && policies === null) return { problem: `${design.dialect.title} has no roles that policies keep.` };
  const said = [
    ...(atWork.stays ? [] : script.statements),
    ...atWork.says(keyOf(named)),
    ...(role === null || policies === null ? [] : [policies.asRole(role)]),
  ];
  return {
    design: { ...design, model: { ...design.model, walls: new Map() } },
    engine: readingFrom(engine, script.reads, said),
    said,
    heldKeys: how === 'views' ? ['declared ones stay', 'all are emptied'] : ['all stay', 'declared ones stay', 'all are emptied'],
  };
}

/** Why a database does not hold walls by a script: what is read in the place of its tables cannot be; null where all of it is there. */
export async function lacksScript(
  lookedAt: Pick<LookedAt, 'design' | 'engine'>,
  held: HeldByDatabase,
  call: CallOptions,
): Promise<string | null> {
  const { design, engine } = lookedAt;
  const script = wallsAsScript(design, held.how);
  if ('problem' in script) return script.problem;
  const sessions = sessionsOf(lookedAt, held, { kind: 'nobody' });
  if ('problem' in sessions) return sessions.problem;
  for (const table of script.reads.values()) {
    const read = await engine.ask(design.dialect.printQuery(noRowOf(table)), { ...call, said: sessions.said });
    if (!read.ok)
      return `${table.name} cannot be read: ${read.problem.message} Run the script that family-tree sql --walls ${held.how} prints for this text.`;
  }
  return null;
}

function noRowOf(table: TableName): Select {
  const one = { expression: { kind: 'number', text: '1' } as const, as: null };
  return selectOf(tableSource(table), { columns: [one], where: { kind: 'boolean', value: false } });
}

/** The key of whoever is at work as a session says it; null for nobody. */
function keyOf(named: ActorName): string | null {
  return named.kind === 'row' && named.row.kind === 'value' ? String(named.row.value) : null;
}

/** An engine of which every statement that a plan reads with is asked in such a session, of what is read in the place of its tables. */
function readingFrom(engine: Engine, reads: ReadonlyMap<string, TableName>, said: readonly string[]): Engine {
  return {
    ...engine,
    run: (name, input, options) => engine.run(name, withSources(input, reads), { ...options, said }),
  };
}

/** What an audit of those sessions does not try, in words. */
export function neverTriedIn({ how }: HeldByDatabase): readonly string[] {
  const here = [
    'What an engine tells by how long it takes beyond what an index gives.',
    'Whoever may say who is at work: a session that says somebody else works as them.',
    'What a text leaves open: that is looked for where this program is to hold its walls.',
  ];
  return how === 'views'
    ? ['The tables themselves: a session that has rights on them reads, and writes, all their rows.', ...here]
    : ['Rows that are made, and what rows may become: triggers of the script look at them.', ...here];
}
