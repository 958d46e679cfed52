import type { ExpectLine, ExpectSyntax, Finding } from '../notation/index.js';
import { type ActorName, resolveActor } from './actors.js';
import { contextOf } from './command-rows.js';
import { resolveCommand } from './commands.js';
import type { Context } from './context.js';
import { notBuilt, type Resolution, unknownName, wrong } from './draft.js';
import type { Expectation, ExpectedLine } from './expectation.js';
import { fitTo, reading, resolveCondition, resolveExpression } from './expressions.js';
import type { Query } from './model.js';
import { refer } from './references.js';

const SYSTEM: ActorName = { kind: 'system' };

/** The expectations of a text; one that is wrong in itself is left out, and told. */
export function resolveExpectations(
  resolution: Resolution,
  queries: ReadonlyMap<string, Query>,
  declarations: readonly ExpectSyntax[],
): readonly Expectation[] {
  return declarations.flatMap((syntax) => {
    const before = resolution.findings.length;
    const subject = subjectOf(resolution, queries, syntax);
    const label = 'the expectation';
    const actor = syntax.actor === null ? SYSTEM : resolveActor(resolution, syntax.actor, label);
    if (subject === null || actor === null) return [];
    const lines = syntax.lines.flatMap((line) => lineOf(resolution, subject, line) ?? []);
    if (lines.length === 0 && syntax.lines.every(({ kind }) => kind === 'note'))
      wrong(
        resolution,
        'nothing-expected',
        syntax.head,
        subject.kind === 'query'
          ? 'This expects nothing. Say what, as in “rows 4” or “every row returned_on is null”.'
          : 'This expects nothing. Say “done” or “refused”.',
      );
    return failedSince(resolution, before) ? [] : [{ subject, actor, lines, span: syntax.span, head: syntax.head }];
  });
}

function failedSince({ findings }: Resolution, before: number): boolean {
  return findings.slice(before).some(({ weight, code }: Finding) => weight === 'error' || code === 'not-built-yet');
}

function subjectOf(
  resolution: Resolution,
  queries: ReadonlyMap<string, Query>,
  { subject }: ExpectSyntax,
): Expectation['subject'] | null {
  const label = 'the expectation';
  const commands = { resolution, named: new Map<string, string>(), label, whole: new Map<string, Query>(), actor: null };
  if (subject.kind === 'command') {
    const command = resolveCommand(commands, subject.command);
    return command === null ? null : { kind: 'command', command: { name: null, as: null, command, span: subject.command.span } };
  }
  const { name, args } = subject;
  const query = queries.get(name.text);
  if (query === undefined) return unknownName(resolution, name, 'query', queries.keys());
  refer(resolution.references, name, 'query', '');
  const { parameters } = query;
  if (args.length > parameters.length || parameters.slice(args.length).some(({ optional }) => !optional))
    return wrong(
      resolution,
      'arguments',
      name.span,
      `${label}: ${name.text} takes ${parameters.map((one) => one.name).join(', ') || 'nothing'}, and is given ${args.length === 0 ? 'nothing' : args.length}.`,
    );
  const context = contextOf(commands, null);
  const given = args.map((arg, at) => {
    const parameter = parameters[at];
    const resolved = resolveExpression(context, arg);
    if (resolved === null || parameter === undefined) return null;
    if (parameter.many) return notBuilt(resolution, arg.span, 'a list as what a query is given in an expectation');
    return fitTo({ ...context, label: `${label}, ${parameter.name}` }, resolved, parameter.type, 'set to');
  });
  if (given.includes(null)) return null;
  return { kind: 'query', query, args: given.flatMap((one) => one ?? []) };
}

function lineOf(resolution: Resolution, subject: Expectation['subject'], line: ExpectLine): ExpectedLine | null {
  switch (line.kind) {
    case 'note':
      return null;
    case 'done':
    case 'refused':
      if (subject.kind === 'command') return { kind: line.kind, span: line.span };
      return wrong(resolution, 'expected-of-query', line.span, `A query is not ${line.kind}: it has rows, or “fails”.`);
    case 'rows':
    case 'statements':
    case 'fails':
    case 'every row':
    case 'no row':
      if (subject.kind === 'command')
        return wrong(
          resolution,
          'expected-of-command',
          line.span,
          `Of a command is expected that it is “done” or “refused”, and not “${line.kind}”.`,
        );
      return ofQuery(resolution, subject.query, line);
  }
}

function ofQuery(
  resolution: Resolution,
  query: Query,
  line: Exclude<ExpectLine, { readonly kind: 'note' | 'done' | 'refused' }>,
): ExpectedLine | null {
  if (!('count' in line || 'condition' in line)) return { kind: 'fails', span: line.span };
  if ('count' in line) {
    const { kind, bound, count, span } = line;
    return { kind, bound, count, span };
  }
  if (query.show !== null || query.cardinality === 'count' || query.cardinality === 'exists')
    return wrong(
      resolution,
      'expected-of-lines',
      line.span,
      `“${line.kind}” is about rows of an entity, and ${query.name ?? 'this query'} answers with ${query.show === null ? 'a number' : 'lines of what it shows'}.`,
    );
  const entity = resolution.entities.get(query.entity);
  if (entity === undefined) return null;
  const context: Context = {
    resolution,
    reading,
    entity,
    pivot: null,
    parameters: new Map(),
    query: null,
    label: 'the expectation',
    reach: 'all',
    resolving: [],
  };
  const condition = resolveCondition(context, line.condition);
  return condition === null ? null : { kind: line.kind, condition, span: line.span };
}
