import { writtenSql } from '../core/load/index.js';
import { profilePlans } from '../core/profile/index.js';
import type { ProfiledRows, ProfileInput } from '../core/runs/index.js';
import type { CallOptions } from '../engines/index.js';
import { type LookedAt, preparedFor } from './looked-at.js';

/** The profile of a relation's rows, with the statements that it took. */
export interface RelationProfile extends ProfiledRows {
  readonly milliseconds: number;
  readonly statements: readonly string[];
}

/** Looks at the rows of a relation with a few set-based statements; a problem where the database has not all of it. */
export async function profileRelation(
  lookedAt: Pick<LookedAt, 'design' | 'engine'>,
  name: string,
  options: CallOptions = {},
): Promise<{ readonly ok: true; readonly profile: RelationProfile } | { readonly ok: false; readonly problem: string }> {
  const { design, engine } = lookedAt;
  const relation = design.model.relations.get(name);
  if (relation === undefined) return { ok: false, problem: `There is no relation ${name} in the text.` };
  const started = performance.now();
  const asks: ProfileInput[number][] = [];
  for (const { tells, plan } of profilePlans(design.model, relation)) {
    const ready = preparedFor({ design, madeHere: false, sampleKeys: {} }, plan);
    if (!ready.ok) return { ok: false, problem: ready.problems.join(' ') };
    asks.push({ tells, prepared: ready.prepared });
  }
  const found = await engine.run('profile', asks, { ...options, patient: true });
  if (!found.ok) return { ok: false, problem: found.problem.message };
  const statements = asks.map(({ prepared }) => writtenSql(prepared, design.dialect));
  return { ok: true, profile: { ...found.value, milliseconds: performance.now() - started, statements } };
}
