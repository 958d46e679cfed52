import type { Design } from '../design/index.js';
import type { NamedThing } from '../model/index.js';
import type { Declaration, EntityLine, LoadSyntax, QueryLine, Span } from '../notation/index.js';
import { sameThing, usesOf } from './names.js';

/** A place that uses a thing, and what stands there. */
export interface Use {
  readonly span: Span;
  /** As a person calls what uses it: `query worth_out`, `derived field Loan.overdue`. */
  readonly by: string;
  /** The line of it: `load`, `where`, `order by`; empty where that says nothing more. */
  readonly line: string;
  /** What stands between, the nearest to the thing last: a derived field or a scope that uses it; empty where it is named itself. */
  readonly through: readonly string[];
}

/**
 * Everything that would no longer mean the same without a thing: each place that names it, in the order of the text, and behind
 * them what names a derived field, a scope, a path or a query that uses it.
 */
export function usedBy(design: Design, thing: NamedThing): readonly Use[] {
  const found: Use[] = [];
  const seen: NamedThing[] = [thing];
  const visit = (used: NamedThing, through: readonly string[]): void => {
    const next: { readonly thing: NamedThing; readonly by: string }[] = [];
    for (const { span, declares } of usesOf(design, used)) {
      const user = declares ? null : userAt(design, span);
      if (user === null) continue;
      found.push({ span, by: user.by, line: user.line, through });
      const { carries } = user;
      if (carries === null || seen.some((known) => sameThing(known, carries))) continue;
      seen.push(carries);
      next.push({ thing: carries, by: user.by });
    }
    for (const { thing: behind, by } of next) visit(behind, [by, ...through]);
  };
  visit(thing, []);
  return found;
}

/** `query worth_out, scope out and 3 more`: what uses a thing, each once. */
export function usedByInWords(uses: readonly Use[], most = 4): string {
  const users = Array.from(new Set(uses.map(({ by }) => by)));
  const shown = users.slice(0, most).join(', ');
  return users.length > most ? `${shown} and ${users.length - most} more` : shown;
}

interface User {
  readonly by: string;
  readonly line: string;
  /** What others name to use it in turn. */
  readonly carries: NamedThing | null;
}

/** What stands around a place of the text. */
function userAt({ syntax }: Design, span: Span): User | null {
  const declaration = syntax.declarations.find((one) => holds(one, span));
  return declaration === undefined ? null : userIn(declaration, span);
}

function userIn(declaration: Declaration, span: Span): User | null {
  switch (declaration.kind) {
    case 'entity':
    case 'mixin': {
      const line = declaration.lines.find((one) => holds(one, span));
      return line === undefined
        ? { by: `${declaration.kind} ${declaration.name.text}`, line: '', carries: null }
        : ofEntityLine(declaration.kind, declaration.name.text, line);
    }
    case 'query': {
      const by = `query ${declaration.name.text}`;
      return { by, line: lineOfQuery(declaration.lines, span), carries: thingOf('query', '', declaration.name.text) };
    }
    case 'scope':
      return { by: `scope ${declaration.name.text}`, line: '', carries: thingOf('scope', '', declaration.name.text) };
    case 'path': {
      const { entity, name } = declaration;
      return { by: `path ${entity.text}.${name.text}`, line: '', carries: thingOf('path', entity.text, name.text) };
    }
    case 'sample':
      return { by: `sample ${declaration.entity.text}`, line: '', carries: null };
    case 'expect': {
      const { subject } = declaration;
      return { by: subject.kind === 'query' ? `expect ${subject.name.text}` : 'an expectation', line: '', carries: null };
    }
    case 'meant':
      return { by: 'a finding that is meant', line: '', carries: null };
    case 'tree':
      return { by: 'the tree', line: '', carries: null };
    case 'wall':
      return { by: `wall ${declaration.name.text}`, line: '', carries: thingOf('wall', '', declaration.name.text) };
    case 'relation':
    case 'choice':
      return { by: `${declaration.kind} ${declaration.name.text}`, line: '', carries: null };
  }
}

function ofEntityLine(kind: 'entity' | 'mixin', owner: string, line: EntityLine): User {
  const plain = (by: string): User => ({ by, line: '', carries: null });
  switch (line.kind) {
    case 'derived':
      return { by: `derived field ${owner}.${line.name.text}`, line: '', carries: thingOf('field', owner, line.name.text) };
    case 'check':
    case 'rule':
      return plain(`${line.kind} ${owner}.${line.name.text}`);
    case 'field':
      return plain(`field ${owner}.${line.name.text}`);
    default:
      return { by: `${kind} ${owner}`, line: line.kind, carries: null };
  }
}

function lineOfQuery(lines: readonly QueryLine[], span: Span): string {
  for (const line of lines) {
    const path = line.kind === 'load' ? pathOfLoad(line, span) : null;
    if (path !== null) return `load ${path}`;
    if (holds(line, span)) return line.kind;
  }
  return '';
}

/** The path of the load in which a place stands, from the root; null where it stands in none of these. */
function pathOfLoad(load: LoadSyntax, span: Span): string | null {
  const own = nameOf(load.path);
  for (const inner of load.loads) {
    const path = pathOfLoad(inner, span);
    if (path !== null) return `${own}.${path}`;
  }
  return holds(load, span) ? own : null;
}

function nameOf({ root, steps }: LoadSyntax['path']): string {
  const first = root.kind === 'name' ? root.name.text : root.kind === 'cast' ? nameOf(root.path) : '';
  return [first, ...steps.flatMap((step) => (step.kind === 'member' ? [step.name.text] : []))].join('.');
}

function thingOf(kind: NamedThing['kind'], owner: string, name: string): NamedThing {
  return { kind, owner, name };
}

function holds({ span }: { readonly span: Span }, { start, end }: Span): boolean {
  return span.start <= start && end <= span.end;
}
