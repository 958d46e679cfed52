import type { DeleteRule, Fix, RelationLine, RelationSyntax, Sentence, Span } from '../../notation/index.js';
import { keptOf } from '../constraints.js';
import { type EntityDraft, lineageOf, type Resolution, wrong } from '../draft.js';
import type { Role } from '../expression.js';
import type { Chosen, KeptSql, Origin, PolymorphicRole, Relation } from '../model.js';

export type StoredLine = Extract<RelationLine, { kind: 'stored' }>;

/** A relation's sentences, matched and with their entities known. */
export interface Ends {
  readonly syntax: RelationSyntax;
  readonly first: Sentence;
  /** The sentence that says the way back; null where nobody walks it. */
  readonly second: Sentence | null;
  /** The entity that the first sentence is about, and the one it knows. */
  readonly subject: EntityDraft;
  readonly target: EntityDraft;
  readonly stored: StoredLine | null;
}

/** A form that a relation can take, and how it is resolved. A new form is one new file and one line in the table. */
export interface RelationForm {
  fits(ends: Ends): boolean;
  /** The relation with the roles that it gives its entities; null, with a finding, where it is wrong. */
  resolve(resolution: Resolution, ends: Ends): { relation: Relation; roles: readonly Role[] } | null;
}

/** The rule on delete or update: as stated, else the given default. */
export function ruleOf(
  { asStated }: Resolution,
  syntax: RelationSyntax,
  event: 'on delete' | 'on update',
  byDefault: DeleteRule,
  why: string,
): Chosen<DeleteRule> {
  const line = syntax.lines.find((candidate) => candidate.kind === event);
  if (line !== undefined && (line.kind === 'on delete' || line.kind === 'on update')) {
    return { value: line.rule, origin: { kind: 'stated', span: line.span } };
  }
  if (asStated) return { value: 'no action', origin: convention('what SQL does where nothing is stated') };
  return { value: byDefault, origin: convention(why) };
}

/** The names and the deferral of a relation's foreign keys, as its lines state them. */
function foreignKeysOf(resolution: Resolution, syntax: RelationSyntax): Pick<Relation, 'deferred' | 'named' | 'kept'> {
  let deferred = false;
  let named: string | null = null;
  const kept: KeptSql[] = [];
  for (const line of syntax.lines) {
    if (line.kind === 'deferred') deferred = true;
    if (line.kind === 'named') named = line.name.text;
    if (line.kind === 'kept') kept.push(...keptOf(resolution, line));
  }
  return { deferred, named, kept };
}

/** The note of a relation, behind its name or on a line of its own. */
function noteOf(syntax: RelationSyntax): string | null {
  const line = syntax.lines.find((candidate) => candidate.kind === 'note');
  return syntax.note?.value ?? (line?.kind === 'note' ? line.text.value : null);
}

/** What all relations have in common, as their lines say it. */
export function sharedBy(
  resolution: Resolution,
  syntax: RelationSyntax,
): Pick<Relation, 'name' | 'onUpdate' | 'deferred' | 'named' | 'kept' | 'note' | 'span' | 'head'> {
  return {
    name: syntax.name.text,
    onUpdate: ruleOf(resolution, syntax, 'on update', 'no action', 'a key is seldom changed'),
    ...foreignKeysOf(resolution, syntax),
    note: noteOf(syntax),
    span: syntax.span,
    head: syntax.head,
  };
}

/** The origin of what the text says here. */
export function stated(span: Span): Origin {
  return { kind: 'stated', span };
}

/** The origin of what a convention filled in. */
export function convention(rule: string): Origin {
  return { kind: 'convention', rule };
}

/**
 * A role that clashes with something the entity, or a kind of it, has already is told, with what it clashes with. Where
 * that is another relation's role, names for both are proposed.
 *
 * @param across the role of the other sentence, by which this one can be told from its namesake
 */
export function clashesWith(resolution: Resolution, entity: EntityDraft, sentence: Sentence, across: string | null): boolean {
  const name = sentence.role.text;
  const lower = name.toLowerCase();
  for (const one of withKinds(resolution, entity)) {
    const field = one.fieldNames.get(lower);
    const role = one.roleNames.get(lower);
    const derived = lineageOf(one).some(({ lines }) =>
      lines.some((line) => line.kind === 'derived' && line.name.text.toLowerCase() === lower),
    );
    const other =
      field !== undefined
        ? 'a field'
        : derived
          ? 'a derived field'
          : role !== undefined
            ? `a role of relation ${role.relation}`
            : null;
    if (other === null) continue;
    const fixes = role === undefined || field !== undefined || derived ? [] : namesForBoth(resolution, role, sentence, across);
    const hides = field === undefined ? '' : ', which the role would hide';
    wrong(
      resolution,
      'name-clash',
      sentence.role.span,
      `${one.name}.${name} is ${other} already${hides}. Give this role another name.`,
      fixes,
    );
    return true;
  }
  return false;
}

function withKinds(resolution: Resolution, entity: EntityDraft): EntityDraft[] {
  const kinds = entity.kinds?.kinds.flatMap((name) => resolution.entities.get(name) ?? []) ?? [];
  return [entity, ...kinds.flatMap((kind) => withKinds(resolution, kind))];
}

/** Two relations give one entity a role of the same name: each is told apart by the role that leads back. */
function namesForBoth(resolution: Resolution, other: Role | PolymorphicRole, sentence: Sentence, across: string | null): Fix[] {
  const name = sentence.role.text;
  const declared = Array.from(resolution.references.values()).find(
    ({ declares, thing }) => declares && thing.kind === 'role' && thing.name === other.name && thing.owner === other.owner,
  );
  const back = [...resolution.entities.values()]
    .flatMap((entity) => [...entity.roles, ...entity.polymorphic])
    .find((role) => role.relation === other.relation && role.name !== other.name)?.name;
  if (declared === undefined || across === null || back === undefined || back === across) return [];
  const [first, second] = [`${name}_as_${back}`, `${name}_as_${across}`];
  return [
    {
      title: `Call them ${first} and ${second}`,
      edits: [
        { span: declared.span, text: first },
        { span: sentence.role.span, text: second },
      ],
    },
  ];
}
