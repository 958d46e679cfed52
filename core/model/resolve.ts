import {
  type ChoiceSyntax,
  type Declaration,
  DIALECTS,
  type EntitySyntax,
  type Finding,
  type ParameterSyntax,
  type PathSyntax,
  parseActor,
  type RelationSyntax,
  type SampleSyntax,
  type Syntax,
  type TreeSyntax,
} from '../notation/index.js';
import { typeFault } from '../sql/index.js';
import { normalTimestamp } from '../values/index.js';
import { type ActorName, resolveActor, resolveNamedRow } from './actors.js';
import { resolveAlwaysLoads } from './always-load.js';
import type { NamedCommand } from './command.js';
import { resolveCommands } from './commands.js';
import { finishEntity, keptOf } from './constraints.js';
import type { Context } from './context.js';
import { resolveDeclaredPath, resolveDeclaredPaths } from './declared-paths.js';
import { type EntityDraft, findEntity, hasDerived, lineageOf, type Resolution, scopeOwners, wrong } from './draft.js';
import { draftEntity } from './entities.js';
import type { Expectation } from './expectation.js';
import { resolveExpectations } from './expectations.js';
import type { Expression } from './expression.js';
import { reading } from './expressions.js';
import { kindsOf } from './kinds.js';
import { resolveMeant } from './meant.js';
import { type Choice, type Entity, hasTable, type KeptSql, type Model, type Query, type Sample } from './model.js';
import { resolveScopeFor } from './paths.js';
import { resolveQuery, resolveQueryText } from './queries.js';
import { type Reference, refer } from './references.js';
import { orderRoles, resolveRelations } from './resolve-relations.js';
import { resolveSample } from './samples.js';
import { isPivot } from './storage.js';
import { resolveWalls } from './walls.js';

/** A model, and what is wrong or doubtful about the text that it came from. */
export interface Resolved {
  readonly model: Model;
  readonly findings: readonly Finding[];
  /** Every name that was found to mean something, by where it begins. */
  readonly references: ReadonlyMap<number, Reference>;
  /** What the text expects of its queries, and of commands. */
  readonly expectations: readonly Expectation[];
  /** Resolves on whose behalf something is done: `system`, `nobody`, or a row as in `Player(3)`. */
  actorOf(text: string): { readonly actor: ActorName | null; readonly findings: readonly Finding[] };
  /** Resolves a row that is named by its key, or as a sample row, as in `Loan(7)`. */
  rowOf(text: string): { readonly row: Expression | null; readonly findings: readonly Finding[] };
  /** Resolves a query that stands outside the text, against the same declarations. */
  queryOf(
    text: string,
    parameters?: readonly ParameterSyntax[],
    /** How many values are given for each parameter that is a list; without it a list stands for one. */
    given?: ReadonlyMap<string, number>,
  ): { readonly query: Query | null; readonly findings: readonly Finding[]; readonly references: ReadonlyMap<number, Reference> };
  /** Resolves commands, a line each or all on one with `;` between, against the same declarations. */
  commandsOf(text: string): {
    readonly commands: readonly NamedCommand[] | null;
    readonly findings: readonly Finding[];
    readonly references: ReadonlyMap<number, Reference>;
  };
}

/**
 * The model of everything that is right in a text: names resolved, conventions filled in and marked. What is wrong
 * is left out and told.
 */
export function resolve(syntax: Syntax): Resolved {
  const of = <K extends Declaration['kind']>(kind: K) =>
    syntax.declarations.filter((declaration): declaration is Extract<Declaration, { kind: K }> => declaration.kind === kind);
  const findings: Finding[] = [...syntax.findings];
  const walls = new Set(of('wall').map(({ name }) => name.text));
  const resolution = resolutionOf(of('tree'), walls, findings);
  const types = new Map<string, string>();
  declareTypes(resolution, types, of('choice'), of('mixin'));
  const declared = of('entity').filter((entity) => !clashes(resolution, types, entity.name.text, entity.name.span));
  for (const [name, kinds] of kindsOf(declared, (finding) => findings.push({ weight: 'error', ...finding })))
    resolution.kinds.set(name, kinds);
  draftEntities(resolution, declared, of('relation'));
  declareScopes(resolution, of('scope'));
  const relations = resolveRelations(resolution, of('relation'));
  orderRoles(resolution, of('relation'));
  const entities = finishEntities(resolution, of('path'));
  const standing = resolveWalls(resolution, of('wall'));
  const queries = resolveQueries(resolution, of('query'));
  const tree = treeOf(resolution, of('tree'));
  const model: Model = {
    ...tree,
    choices: resolution.choices,
    entities,
    relations,
    scopes: resolution.scopes,
    walls: standing,
    queries,
    samples: resolveSamples(resolution, of('sample')),
    meant: resolveMeant(resolution, of('meant'), syntax.declarations),
  };
  const expectations = resolveExpectations(resolution, queries, of('expect'));
  checkTables(resolution, model);
  resolution.findings.sort((a, b) => a.span.start - b.span.start);
  return {
    model,
    findings: toldOnce(resolution.findings),
    references: resolution.references,
    expectations,
    actorOf(text) {
      const own: Resolution = { ...resolution, findings: [], references: new Map() };
      const { actor: named, findings: misread } = parseActor(text);
      const actor = named === null ? null : resolveActor(own, named, 'whoever is at work');
      return { actor, findings: [...misread, ...own.findings] };
    },
    rowOf(text) {
      const own: Resolution = { ...resolution, findings: [], references: new Map() };
      const { actor: named, findings: misread } = parseActor(text);
      const row = named?.kind === 'row' ? resolveNamedRow(own, named, 'the row') : null;
      return { row: row?.type.kind === 'row' ? row : null, findings: [...misread, ...own.findings] };
    },
    queryOf(text, parameters = [], given = new Map()) {
      const own: Resolution = { ...resolution, findings: [], references: new Map() };
      const query = resolveQueryText(own, text, parameters, given);
      return { query, findings: toldOnce(own.findings), references: own.references };
    },
    commandsOf(text) {
      const own: Resolution = { ...resolution, findings: [], references: new Map() };
      const commands = resolveCommands(own, text);
      return { commands, findings: toldOnce(own.findings), references: own.references };
    },
  };
}

const COMMANDS: readonly string[] = ['create', 'find', 'update', 'link', 'unlink', 'delete', 'as'];

/** The state in which the reading of a text begins: nothing is declared yet. */
function resolutionOf(trees: readonly TreeSyntax[], walls: ReadonlySet<string>, findings: Finding[]): Resolution {
  const resolution: Resolution = {
    dialect: dialectOf(trees),
    asStated: trees[0]?.lines.some((line) => line.kind === 'tables as stated') ?? false,
    findings,
    references: new Map(),
    actor: trees[0]?.lines.find((line) => line.kind === 'actor')?.entity.text ?? null,
    choices: new Map(),
    mixins: new Map(),
    entities: new Map(),
    walls,
    leftOut: new Map(),
    leftOutMembers: new Set(),
    pivots: new Map(),
    scopeLines: new Map(),
    scopes: new Map(),
    counts: { fields: 0, tooMany: new Set(), openPaths: 0, wrongScopes: new Set() },
    kinds: new Map(),
    marks: new Map(),
    sharedColumns: new Map(),
    pathLines: new Map(),
    pathOf: (entity, name) => resolveDeclaredPath(resolution, entity, name),
  };
  return resolution;
}

/** The entities, each behind its base, once every role is known; scopes, which may speak of all of them, on the way. */
function finishEntities(resolution: Resolution, lines: readonly PathSyntax[]): ReadonlyMap<string, Entity> {
  const paths = resolveDeclaredPaths(resolution, lines);
  const entities = new Map<string, Entity>();
  for (const [name, draft] of resolution.entities) {
    const base = draft.base === null ? null : (entities.get(draft.base.name) ?? null);
    entities.set(name, finishEntity(resolution, draft, base));
  }
  resolveScopes(resolution);
  const always = resolveAlwaysLoads(resolution);
  for (const [name, entity] of entities)
    entities.set(name, { ...entity, paths: paths.get(name) ?? [], alwaysLoad: always.get(name) ?? [] });
  return entities;
}

/** The saved queries by name; of two of one name, in whatever case, the first. */
function resolveQueries(
  resolution: Resolution,
  declarations: readonly Extract<Declaration, { kind: 'query' }>[],
): ReadonlyMap<string, Query> {
  const queries = new Map<string, Query>();
  const names = new Set<string>();
  for (const declaration of declarations) {
    const { text, span } = declaration.name;
    if (COMMANDS.includes(text)) {
      wrong(resolution, 'command-name', span, `${text} is a command, so no query can bear its name. Rename it.`);
      continue;
    }
    if (names.has(text.toLowerCase())) {
      wrong(resolution, 'name-clash', span, `There is a query ${text} already. Rename one of the two.`);
      continue;
    }
    names.add(text.toLowerCase());
    refer(resolution.references, declaration.name, 'query', '', true);
    const query = resolveQuery(resolution, declaration);
    if (query !== null) queries.set(text, query);
  }
  return queries;
}

/** A load of a role to several entities is read once for each, and says what is wrong with it once. */
function toldOnce(findings: readonly Finding[]): Finding[] {
  const told = new Set<string>();
  return findings.filter(({ message, span }) => {
    const key = `${span.start} ${message}`;
    const known = told.has(key);
    told.add(key);
    return !known;
  });
}

function clashes(resolution: Resolution, types: Map<string, string>, name: string, span: Finding['span']): boolean {
  const other = types.get(name.toLowerCase());
  if (other === undefined) {
    types.set(name.toLowerCase(), name);
    return false;
  }
  wrong(resolution, 'name-clash', span, `There is an entity, mixin or choice ${other} already. Rename one of the two.`);
  return true;
}

/** The frames of all entities. A key may stand on another entity's, which is then drafted first; their order stays. */
const MOST_KEYS_DEEP = 60;

function draftEntities(resolution: Resolution, syntaxes: readonly EntitySyntax[], relations: readonly RelationSyntax[]): void {
  const byName = new Map(syntaxes.map((syntax) => [syntax.name.text, syntax]));
  const drafts = new Map<string, EntityDraft | null>();
  const drafting: string[] = [];
  const draft = (name: string): EntityDraft | null => {
    const known = drafts.get(name);
    const syntax = byName.get(name);
    if (known !== undefined || syntax === undefined) return known ?? null;
    if (drafting.includes(name)) {
      return wrong(
        resolution,
        'key-loop',
        syntax.name.span,
        `${name}: its key stands on itself, over ${[...drafting.slice(drafting.indexOf(name)), name].join(' → ')}. Give one of them a field as its key.`,
      );
    }
    if (drafting.length > MOST_KEYS_DEEP)
      return wrong(
        resolution,
        'key-depth',
        syntax.name.span,
        `${name}: more than ${MOST_KEYS_DEEP} keys stand on each other here. Give one of them a field as its key.`,
      );
    drafting.push(name);
    const made = draftEntity(resolution, syntax, { relations, draft });
    drafting.pop();
    drafts.set(name, made);
    return made;
  };
  for (const syntax of syntaxes) {
    refer(resolution.references, syntax.name, 'entity', '', true);
    draft(syntax.name.text);
  }
  const put = (name: string) => {
    const made = drafts.get(name) ?? null;
    if (made === null || resolution.entities.has(name)) return;
    // A kind is finished when its base is.
    if (made.base !== null) put(made.base.name);
    resolution.entities.set(name, made);
  };
  for (const syntax of syntaxes) put(syntax.name.text);
}

function declareTypes(
  resolution: Resolution,
  types: Map<string, string>,
  choices: readonly ChoiceSyntax[],
  mixins: readonly Extract<Declaration, { kind: 'mixin' }>[],
): void {
  for (const syntax of choices) {
    if (clashes(resolution, types, syntax.name.text, syntax.name.span)) continue;
    refer(resolution.references, syntax.name, 'choice', '', true);
    const values = new Map<string, string | null>();
    for (const { value, title } of syntax.values) {
      if (values.has(value.value))
        wrong(resolution, 'name-clash', value.span, `${syntax.name.text} has '${value.value}' already. Remove one.`);
      else values.set(value.value, title?.value ?? null);
    }
    if (values.size === 0) {
      wrong(
        resolution,
        'empty-choice',
        syntax.name.span,
        `${syntax.name.text} has no value to choose. Add one on a line below, as in “'worn' as 'Shows use'”.`,
      );
      continue;
    }
    const choice: Choice = {
      name: syntax.name.text,
      values: Array.from(values, ([value, title]) => ({ value, title })),
      span: syntax.span,
    };
    resolution.choices.set(choice.name, choice);
  }
  for (const mixin of mixins) {
    if (clashes(resolution, types, mixin.name.text, mixin.name.span)) continue;
    refer(resolution.references, mixin.name, 'mixin', '', true);
    resolution.mixins.set(mixin.name.text, mixin);
    for (const line of mixin.lines) {
      if (line.kind === 'key' || line.kind === 'kinds' || line.kind === 'shown as') {
        wrong(
          resolution,
          'mixin-line',
          line.span,
          `A mixin cannot say “${line.kind}”, since each entity has its own. Move the line to the entities.`,
        );
      }
    }
  }
}

function declareScopes(resolution: Resolution, scopes: readonly Extract<Declaration, { kind: 'scope' }>[]): void {
  for (const scope of scopes) {
    const name = scope.name.text;
    if (resolution.scopeLines.has(name)) {
      wrong(resolution, 'name-clash', scope.name.span, `There is a scope ${name} already. Rename one of the two.`);
      continue;
    }
    refer(resolution.references, scope.name, 'scope', '', true);
    const lines = new Map<
      string,
      { condition: Extract<(typeof scope.lines)[number], { kind: 'where' }>['condition']; span: Finding['span'] }
    >();
    for (const line of scope.lines) {
      if (line.kind !== 'where') continue;
      if (resolution.mixins.has(line.entity.text)) {
        refer(resolution.references, line.entity, 'mixin');
      } else {
        const entity = findEntity(resolution, line.entity, `scope ${name} of ${line.entity.text}`);
        if (entity === null) continue;
        const taken = entity.fields.some((field) => field.name.toLowerCase() === name.toLowerCase());
        if (taken) {
          wrong(
            resolution,
            'name-clash',
            scope.name.span,
            `${entity.name}.${name} is a field already. Give the scope another name.`,
          );
          continue;
        }
      }
      lines.set(line.entity.text, { condition: line.condition, span: line.span });
    }
    resolution.scopeLines.set(name, lines);
    resolution.scopes.set(name, { name, conditions: new Map(), span: scope.span, head: scope.head });
  }
}

/** The entities for which a scope's line may speak, by the name that it speaks of: in the order of the text. */
function entitiesByOwner(resolution: Resolution): Map<string, { readonly place: number; readonly entity: EntityDraft }[]> {
  const byOwner = new Map<string, { readonly place: number; readonly entity: EntityDraft }[]>();
  let place = 0;
  for (const entity of resolution.entities.values()) {
    place += 1;
    for (const owner of scopeOwners(entity)) {
      const known = byOwner.get(owner);
      if (known === undefined) byOwner.set(owner, [{ place, entity }]);
      else known.push({ place, entity });
    }
  }
  return byOwner;
}

function resolveScopes(resolution: Resolution): void {
  if (resolution.scopeLines.size === 0) return;
  const byOwner = entitiesByOwner(resolution);
  for (const [name, lines] of resolution.scopeLines) {
    const scope = resolution.scopes.get(name);
    if (scope === undefined) continue;
    const spokenOf = Array.from(lines.keys()).flatMap((owner) => byOwner.get(owner) ?? []);
    const entities = new Set(spokenOf.sort((a, b) => a.place - b.place).map(({ entity }) => entity));
    for (const entity of entities) {
      const other = [...entity.roles, ...entity.polymorphic].find((role) => role.name.toLowerCase() === name.toLowerCase());
      if (other !== undefined) {
        wrong(
          resolution,
          'name-clash',
          scope.head,
          `${entity.name}.${other.name} is a role of relation ${other.relation} already. Give the scope another name.`,
        );
        continue;
      }
      const isPath = lineageOf(entity).some((one) => resolution.pathLines.has(`${one.name}.${name}`));
      if (isPath || hasDerived(entity, name)) {
        const what = isPath ? 'a path' : 'a derived field';
        wrong(resolution, 'name-clash', scope.head, `${entity.name}.${name} is ${what} already. Give the scope another name.`);
        continue;
      }
      const context: Context = {
        resolution,
        reading,
        entity,
        pivot: null,
        parameters: new Map(),
        label: `scope ${name}`,
        query: null,
        reach: 'all',
        me: 'bound',
        resolving: [],
      };
      resolveScopeFor(context, entity, { text: name, span: scope.head });
    }
  }
}

function resolveSamples(resolution: Resolution, syntaxes: readonly SampleSyntax[]): Sample[] {
  const rowNames = new Map<string, Set<string>>();
  for (const syntax of syntaxes) {
    const names = rowNames.get(syntax.entity.text) ?? new Set<string>();
    for (const line of syntax.lines) if (line.kind === 'row') names.add(line.name.text);
    rowNames.set(syntax.entity.text, names);
    // A row of a kind is one of its base, too, and goes by its name there.
    for (let base = resolution.kinds.get(syntax.entity.text)?.base ?? null; base !== null; ) {
      rowNames.set(base, new Set([...(rowNames.get(base) ?? []), ...names]));
      base = resolution.kinds.get(base)?.base ?? null;
    }
  }
  return syntaxes.flatMap((syntax) => resolveSample(resolution, syntax, rowNames) ?? []);
}

function treeOf(
  resolution: Resolution,
  trees: readonly TreeSyntax[],
): Pick<Model, 'title' | 'note' | 'actor' | 'clock' | 'dialect' | 'physical' | 'kept'> {
  const [tree, second] = trees;
  if (second !== undefined)
    wrong(resolution, 'second-tree', second.head, 'A text has one tree. Remove this line, or bring its lines to the first.');
  let note: string | null = null;
  let actor: string | null = null;
  let clock: string | null = null;
  const types = new Map<string, string>();
  const kept: KeptSql[] = [];
  for (const line of tree?.lines ?? []) {
    switch (line.kind) {
      case 'note':
        note = line.text.value;
        break;
      case 'clock': {
        clock = normalTimestamp(line.text.value);
        if (clock === null)
          wrong(resolution, 'clock', line.span, `clock: “${line.text.value}” is no moment. Write it as '2031-04-12 09:00'.`);
        break;
      }
      case 'actor':
        if (findEntity(resolution, line.entity, 'the actor') !== null) actor = line.entity.text;
        break;
      case 'dialect':
        break;
      case 'stored type':
        {
          const fault = typeFault(line.declaration.value, resolution.dialect);
          if (fault === null) types.set(line.type, line.declaration.value);
          else wrong(resolution, 'stated-type', line.span, `stored ${line.type} as: this is not one type, since ${fault}.`);
        }
        break;
      case 'kept':
        kept.push(...keptOf(resolution, line));
        break;
      case 'tables as stated':
      case 'references without columns':
        break;
    }
  }
  const says = (kind: string) => tree?.lines.some((line) => line.kind === kind) ?? false;
  return {
    title: tree?.title.value ?? 'Untitled',
    note,
    actor,
    clock,
    dialect: resolution.dialect,
    physical: {
      dialect: resolution.dialect,
      types,
      asStated: says('tables as stated'),
      unnamedReferences: says('references without columns'),
    },
    kept,
  };
}

function dialectOf([tree]: readonly TreeSyntax[]): Model['dialect'] {
  const line = tree?.lines.find((candidate) => candidate.kind === 'dialect');
  return line?.kind === 'dialect' ? line.dialect : DIALECTS[0];
}

function checkTables(resolution: Resolution, model: Model): void {
  const owners = new Map<string, string>();
  const claim = (table: { schema: string | null; name: string }, owner: string, span: Finding['span']) => {
    const key = `${table.schema ?? ''}.${table.name}`.toLowerCase();
    const other = owners.get(key);
    if (other === undefined) owners.set(key, owner);
    else
      wrong(
        resolution,
        'table-clash',
        span,
        `${owner} and ${other} are both stored in table ${table.name}. Give one of them another table.`,
      );
  };
  for (const entity of model.entities.values()) if (hasTable(entity)) claim(entity.table.value, entity.name, entity.head);
  for (const relation of model.relations.values()) {
    if (isPivot(relation) && relation.entity === null) claim(relation.table.value, `relation ${relation.name}`, relation.head);
  }
}
