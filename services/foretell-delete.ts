import { deleteGraph } from '../core/cascades/index.js';
import type { Design } from '../core/design/index.js';
import type { Impact, ImpactLook } from '../core/impact/index.js';
import type { ActorName } from '../core/model/index.js';
import type { Finding } from '../core/notation/index.js';
import type { Wire } from '../core/values/index.js';
import type { Engine } from '../engines/index.js';

/** Rows that are to be deleted, and the database that they are in. */
export interface ForetellRequest {
  /** As behind “delete” in a command; or such commands, several with `;` between them. */
  readonly rows: string;
  readonly sampleKeys: Readonly<Record<string, Wire>>;
  /** What now is, as a timestamp in wire form. */
  readonly now: string;
  /** The schemas of the database that are the tree's; null for the one that is used anyway. */
  readonly schemas: readonly string[] | null;
  /** How many rows of each group are shown by their keys. */
  readonly looks: number;
  /** On whose behalf; left out, the system’s. */
  readonly as?: ActorName;
  readonly signal?: AbortSignal;
}

export type Foretold =
  | { readonly ok: true; readonly impact: Impact; readonly looks: readonly (ImpactLook | null)[] }
  | { readonly ok: false; readonly findings: readonly Finding[]; readonly problems: readonly string[] };

const COMMAND = 'delete ';

/** Tells what a delete takes along, empties, or is refused by, before anything is touched. */
export async function foretellDelete(design: Design, engine: Engine, request: ForetellRequest): Promise<Foretold> {
  const { rows, sampleKeys, now, schemas, looks, as = { kind: 'system' }, signal } = request;
  const added = new RegExp(`^\\s*${COMMAND}`).test(rows) ? 0 : COMMAND.length;
  const { commands, findings } = design.commandsOf(added === 0 ? rows : `${COMMAND}${rows}`);
  if (commands === null) return { ok: false, findings: findings.map((finding) => moved(finding, added)), problems: [] };
  const meant = commands.flatMap(({ command }) => (command.kind === 'delete' ? [command.rows] : []));
  if (meant.length < commands.length)
    return { ok: false, findings: [], problems: ['Only a delete is told beforehand. Rehearse the other commands instead.'] };
  const looked = await engine.introspect(schemas);
  if (!looked.ok) return { ok: false, findings: [], problems: [looked.problem.message] };
  const graph = deleteGraph(design.model, design.dialect, looked.value.schema);
  const inputs = { now, sampleKeys, madeHere: false, keep: false, uuidStem: '' };
  const asked = { model: design.model, graph, rows: meant, inputs, looks, as };
  const told = await engine.run('impact', asked, { patient: true, ...(signal === undefined ? {} : { signal }) });
  if (!told.ok) return { ok: false, findings: [], problems: [told.problem.message] };
  if (!told.value.ok) return { ok: false, findings: [], problems: [told.value.message] };
  return { ok: true, impact: told.value.impact, looks: told.value.looks };
}

/** A finding with its place in the text as it was given, before a command's word was put before it. */
function moved(finding: Finding, by: number): Finding {
  const { start, end } = finding.span;
  return { ...finding, span: { start: Math.max(0, start - by), end: Math.max(0, end - by) } };
}
