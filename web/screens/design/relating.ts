import type { NewRelation } from '../../../core/edits/index.js';
import { plural, singular, snakeCase } from '../../../core/model/index.js';
import type { DeleteRule, Knows } from '../../../core/notation/index.js';
import type { DesignView } from '../../../core/view-models/index.js';

/** How one knows whoever knows it, or that nobody walks back. */
export type BackKnows = Knows | 'nothing of';

/** What a person has said so far; null for what is suggested. */
export interface RelationDraft {
  readonly subject: string;
  readonly target: string;
  readonly more: readonly string[];
  readonly knows: Knows;
  readonly back: BackKnows;
  /** The way back of each by itself, by entity, where they do not all say the same; else null. */
  readonly backs: Readonly<Record<string, { readonly back: BackKnows; readonly role: string | null }>> | null;
  readonly bothWays: boolean;
  readonly role: string | null;
  readonly backRole: string | null;
  readonly name: string | null;
  readonly stored: string;
  readonly onDelete: DeleteRule | null;
}

/** The relation as said, with names suggested that nothing bears yet. */
export function suggested(view: DesignView, stated: RelationDraft): NewRelation {
  const { subject, target, more, knows, back, bothWays } = stated;
  const taken = (entity: string) => {
    const found = view.entities.find(({ name }) => name === entity);
    return new Set([...(found?.fields.map(({ name }) => name) ?? []), ...(found?.ends.map(({ name }) => name) ?? [])]);
  };
  const self = subject === target;
  const wish = more.length > 0 ? (knows === 'many' ? 'things' : 'subject') : roleName(target, knows, self ? 'other_' : '');
  const role = stated.role ?? free(wish, taken(subject));
  const targets = [target, ...more];
  /** A name for the way back that none of these has yet. */
  const backRoleFor = (entities: readonly string[], how: Knows) => {
    const backTaken = new Set(entities.flatMap((entity) => Array.from(taken(entity))));
    if (self) backTaken.add(role);
    return free(roleName(subject, how, ''), backTaken);
  };
  const backs = (stated.more.length > 0 && stated.backs !== null ? targets : []).flatMap((entity) => {
    const said = stated.backs?.[entity] ?? { back, role: null };
    if (said.back === 'nothing of') return [];
    return [{ entity, knows: said.back, role: said.role ?? backRoleFor([entity], said.back) }];
  });
  const alike = back === 'nothing of' || bothWays || stated.backs !== null ? null : back;
  const relations = new Set(view.declarations.flatMap(({ kind, name }) => (kind === 'relation' ? [name] : [])));
  const name = stated.name ?? free(`${singular(snakeCase(subject))}_${role}`, relations);
  return {
    name,
    subject,
    knows,
    target,
    more,
    role,
    back: alike === null ? null : { knows: alike, role: stated.backRole ?? backRoleFor(targets, alike) },
    backs,
    bothWays,
    stored: stated.stored.trim() === '' ? null : stated.stored.trim(),
    onDelete: stated.onDelete,
  };
}

function roleName(entity: string, knows: Knows, before: string): string {
  const name = snakeCase(entity);
  return `${before}${knows === 'many' ? plural(name) : singular(name)}`;
}

function free(wish: string, taken: ReadonlySet<string>): string {
  let name = wish;
  for (let count = 2; taken.has(name); count++) name = `${wish}_${count}`;
  return name;
}

/**
 * What the relation means for the rows that are there, in words.
 *
 * @param rows how many each entity has, of a base all of its kinds; null while that is not known, and then nothing is said of
 * their number
 */
export function effectOnRows(
  { subject, knows, target, more, back, bothWays }: NewRelation,
  rows: Readonly<Record<string, number>> | null,
): string[] {
  const count = (entity: string) => (rows === null ? null : (rows[entity] ?? 0));
  const many = (entity: string) => {
    const known = count(entity);
    return `${known === null ? '' : `${known.toLocaleString('en')} `}${known === 1 ? 'row' : 'rows'} of ${entity}`;
  };
  const backKnows = bothWays ? 'many' : (back?.knows ?? 'many');
  if (knows === 'many' && backKnows === 'many')
    return [`The new table begins empty; the ${many(subject)} and the ${many(target)} stay as they are.`];
  if (more.length > 0) {
    const all = [target, ...more].map(many).join(', ');
    return knows === 'one'
      ? [`Each of the ${many(subject)} must point at one of ${all}; the scratch rows are made anew so that they do.`]
      : [`The ${many(subject)} begin pointing at nothing; each may point at one of ${all}.`];
  }
  const [child, parent, up] = knows === 'many' ? [target, subject, backKnows] : [subject, target, knows];
  const key =
    up === 'one'
      ? `Each of the ${many(child)} must point at one of the ${many(parent)}; the scratch rows are made anew so that they do.`
      : `The ${many(child)} begin with an empty key; each may point at one of the ${many(parent)}.`;
  const [children, parents] = [count(child), count(parent)];
  const most =
    children === null || parents === null ? '' : `, so at most ${Math.min(children, parents).toLocaleString('en')} can`;
  const unique = knows !== 'many' && backKnows !== 'many' ? [`No two may point at the same ${parent}${most}.`] : [];
  const short = up === 'one' && parents === 0 && children !== 0 ? [`There is no ${parent} yet to point at: add some first.`] : [];
  return [key, ...unique, ...short];
}
