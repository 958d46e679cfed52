import type { EntitySyntax, Finding, KindsStorage as StorageSyntax } from '../notation/index.js';
import { nearest } from '../notation/index.js';
import type { ConcreteKind, Kinds, KindsStorage } from './model.js';
import { snakeCase } from './names.js';

/** What is wrong with a base, a kind or a mark. */
type Tell = (finding: Omit<Finding, 'weight'>) => void;

/**
 * What each entity is among the kinds of one base, from the heads of the entities and the line `kinds in …` of the base
 * at the top. An entity whose base is wrong is told, and has no place here.
 */
export function kindsOf(syntaxes: readonly EntitySyntax[], tell: Tell): Map<string, Kinds> {
  const byName = new Map(syntaxes.map((syntax) => [syntax.name.text, syntax]));
  const below = new Map<string, EntitySyntax[]>();
  for (const syntax of syntaxes) {
    const base = syntax.base?.text;
    if (base === undefined) continue;
    const kinds = below.get(base);
    if (kinds === undefined) below.set(base, [syntax]);
    else kinds.push(syntax);
  }
  const known = new Map<string, Kinds>();
  for (const root of syntaxes) {
    if (root.base !== null) continue;
    const storage = storageOf(root, below.has(root.name.text), tell);
    if (storage !== null) place(root, { root: root.name.text, base: null, storage }, { below, known, depth: 0 });
  }
  for (const syntax of syntaxes) {
    if (syntax.base !== null) tellBase(syntax, byName, known, tell);
    for (const line of syntax.lines) {
      if (line.kind === 'kinds' && syntax.base !== null)
        tell({
          code: 'kinds-line',
          span: line.span,
          fixes: [],
          message: `${syntax.name.text} is a kind of ${syntax.base.text}, and how kinds are stored is said once, by the base at the top. Remove this line.`,
        });
    }
  }
  tellEmpty(syntaxes, known, tell);
  tellMarks(syntaxes, known, tell);
  return known;
}

function storageOf(root: EntitySyntax, hasKinds: boolean, tell: Tell): KindsStorage | null {
  const name = root.name.text;
  const line = root.lines.find((candidate) => candidate.kind === 'kinds');
  if (line?.kind === 'kinds') return storage(line.storage);
  if (hasKinds) {
    const text = '\n  kinds in single table by kind';
    const end = root.head.end;
    tell({
      code: 'kinds-unsaid',
      span: root.name.span,
      message: `${name} has kinds, and nothing says how they are stored. Add a line like “kinds in single table by kind”.`,
      fixes: [{ title: 'Add kinds in single table by kind', edits: [{ span: { start: end, end }, text }] }],
    });
    return { kind: 'single table', mark: 'kind' };
  }
  return null;
}

/** No row could be one of an abstract entity that nothing is a kind of: it is told, and has no place. */
function tellEmpty(syntaxes: readonly EntitySyntax[], known: Map<string, Kinds>, tell: Tell): void {
  for (const { name, abstract, head } of syntaxes) {
    if (!abstract || (known.get(name.text)?.concrete.length ?? 0) > 0) continue;
    known.delete(name.text);
    for (const [above, kinds] of known)
      if (kinds.kinds.includes(name.text))
        known.set(above, { ...kinds, kinds: kinds.kinds.filter((kind) => kind !== name.text) });
    tell({
      code: 'abstract-alone',
      span: head,
      fixes: [],
      message: `${name.text} is abstract, so no row can be one, and nothing is a kind of it. Remove abstract, or state an entity “is ${name.text}”.`,
    });
  }
}

function storage(syntax: StorageSyntax): KindsStorage {
  switch (syntax.kind) {
    case 'separate tables':
      return { kind: 'separate tables' };
    case 'json':
      return { kind: 'json', column: syntax.json.text, mark: syntax.column.text };
    default:
      return { kind: syntax.kind, mark: syntax.column.text };
  }
}

/** How many bases a kind can have above it: each of its rows is put together from all of them. */
const MOST_BASES = 30;

interface Placing {
  readonly below: ReadonlyMap<string, readonly EntitySyntax[]>;
  readonly known: Map<string, Kinds>;
  readonly depth: number;
}

function place(syntax: EntitySyntax, above: Pick<Kinds, 'root' | 'base' | 'storage'>, placing: Placing): readonly ConcreteKind[] {
  const { below, known, depth } = placing;
  const name = syntax.name.text;
  // It is told with all others that have too many bases.
  if (depth > MOST_BASES) return [];
  const mark = syntax.mark?.value ?? snakeCase(name);
  const kinds = below.get(name) ?? [];
  const concrete: ConcreteKind[] = syntax.abstract ? [] : [{ entity: name, mark }];
  for (const kind of kinds)
    for (const one of place(kind, { ...above, base: name }, { ...placing, depth: depth + 1 })) concrete.push(one);
  const placed = kinds.map((kind) => kind.name.text).filter((kind) => known.has(kind));
  known.set(name, { ...above, abstract: syntax.abstract, mark, kinds: placed, concrete });
  return concrete;
}

function tellBase(
  syntax: EntitySyntax,
  byName: ReadonlyMap<string, EntitySyntax>,
  known: ReadonlyMap<string, Kinds>,
  tell: Tell,
) {
  const { base } = syntax;
  if (base === null || known.has(syntax.name.text)) return;
  const chain: string[] = [syntax.name.text];
  for (let next = byName.get(base.text); next !== undefined; next = next.base === null ? undefined : byName.get(next.base.text)) {
    if (chain.includes(next.name.text)) {
      const loop = [...chain.slice(chain.indexOf(next.name.text)), next.name.text];
      tell({
        code: 'kinds-loop',
        span: base.span,
        fixes: [],
        message: `${syntax.name.text} is a kind of itself, over ${loop.join(' → ')}. Take “is …” from one of them.`,
      });
      return;
    }
    if (chain.length > MOST_BASES) {
      tell({
        code: 'kinds-depth',
        span: base.span,
        fixes: [],
        message: `${syntax.name.text} has more than ${MOST_BASES} bases above it, and is left out. Let it be a kind of one nearer to the top.`,
      });
      return;
    }
    chain.push(next.name.text);
  }
  const last = byName.get(chain.at(-1) ?? '');
  const missing = last?.base?.text ?? base.text;
  if (last !== syntax) return;
  const near = nearest(missing, byName.keys());
  tell({
    code: 'unknown-entity',
    span: base.span,
    message: `${syntax.name.text}: there is no entity ${missing} for it to be a kind of.${near === null ? '' : ` Did you mean ${near}?`}`,
    fixes: near === null ? [] : [{ title: `Write ${near}`, edits: [{ span: base.span, text: near }] }],
  });
}

function tellMarks(syntaxes: readonly EntitySyntax[], known: ReadonlyMap<string, Kinds>, tell: Tell): void {
  const taken = new Map<string, string>();
  for (const syntax of syntaxes) {
    const name = syntax.name.text;
    const kinds = known.get(name);
    if (syntax.mark !== null && kinds === undefined) {
      tell({
        code: 'mark-alone',
        span: syntax.mark.span,
        fixes: [],
        message: `${name} has a mark, and is no kind of anything. Remove “marked”, or say what it is a kind of.`,
      });
    }
    if (kinds === undefined || kinds.abstract) continue;
    const key = `${kinds.root}\n${kinds.mark}`;
    const other = taken.get(key);
    if (other === undefined) taken.set(key, name);
    else
      tell({
        code: 'mark-clash',
        span: syntax.mark?.span ?? syntax.name.span,
        fixes: [],
        message: `${name} and ${other} are both marked '${kinds.mark}', so no row could say which it is. Give one of them another mark.`,
      });
  }
}
