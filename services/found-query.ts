import type { Design } from '../core/design/index.js';
import type { Query } from '../core/model/index.js';
import { didYouMean, type Finding, type ParameterSyntax } from '../core/notation/index.js';

/** The query that is wanted: the name of a saved one, or the text of one. */
export type WantedQuery =
  | { readonly kind: 'saved'; readonly name: string }
  | { readonly kind: 'text'; readonly text: string; readonly parameters: readonly ParameterSyntax[] };

/** The values of parameters as they are written, by name. */
export type GivenParameters = Readonly<Record<string, string | null>>;

/** A query, and how it is written. */
export interface FoundQuery {
  readonly query: Query;
  /** The query with its head, as a person wrote it: its places are those of this text, or of the design's. */
  readonly text: string;
  /** Its lines as they would stand alone. */
  readonly lines: string;
  readonly parameters: readonly ParameterSyntax[];
}

/** A saved query as one that stands alone: its lines, and the parameters that its head declares; null where the text has none. */
export function savedAsText(design: Design, name: string): { lines: string; parameters: readonly ParameterSyntax[] } | null {
  const declared = design.syntax.declarations.find((one) => one.kind === 'query' && one.name.text === name);
  if (declared?.kind !== 'query') return null;
  const body = design.text.slice(declared.head.end, declared.span.end);
  return { lines: body.replace(/^ {2}/gm, '').trim(), parameters: declared.parameters };
}

/** The query that is wanted, with its lines; or why there is none. */
export function queryFor(
  design: Design,
  wanted: WantedQuery,
): FoundQuery | { findings: readonly Finding[]; problems: readonly string[] } {
  if (wanted.kind === 'text') {
    const { query, findings } = design.queryOf(wanted.text, wanted.parameters);
    if (query === null) return { findings, problems: [] };
    return { query, text: wanted.text, lines: wanted.text, parameters: wanted.parameters };
  }
  const query = design.model.queries.get(wanted.name);
  if (query !== undefined)
    return {
      query,
      text: design.text.slice(query.span.start, query.span.end),
      ...(savedAsText(design, wanted.name) ?? { lines: '', parameters: [] }),
    };
  const syntax = design.syntax.declarations.find(
    (declaration) => declaration.kind === 'query' && declaration.name.text === wanted.name,
  );
  const inside =
    syntax === undefined
      ? []
      : design.findings.filter((finding) => finding.span.start >= syntax.span.start && finding.span.end <= syntax.span.end);
  const reason =
    inside.length > 0
      ? ` cannot run: ${inside[0]?.message}`
      : ` is not in the text.${didYouMean(wanted.name, design.model.queries.keys())}`;
  return { findings: inside, problems: [`Query ${wanted.name}${reason}`] };
}

/** Parameters that are given and that the query has not, each with what it may have meant. */
export function unknownParameters(given: GivenParameters, known: readonly string[]): string[] {
  return Object.keys(given)
    .filter((name) => !known.includes(name))
    .map((name) =>
      known.length === 0
        ? `The query takes no parameters, and ${name} is given.`
        : `The query has no parameter ${name}.${didYouMean(name, known) || ` It has ${known.join(', ')}.`}`,
    );
}

/** ` where name = :name, with name = 'Nobody'`: what a query was asked with. */
export function askedWith({ text }: FoundQuery, parameters: GivenParameters): string {
  const conditions = Array.from(
    text.matchAll(/^[ \t]*(?:from \S+ )?(where .+?)[ \t]*(?:--.*)?$/gm),
    ([, condition]) => condition,
  );
  const given = Object.entries(parameters).filter(([name]) => conditions.some((one) => one?.includes(`:${name}`)));
  const values = given.map(([name, value]) => `${name} = ${value === null ? 'null' : `'${value}'`}`);
  return `${conditions
    .slice(0, 1)
    .map((condition) => ` ${condition}`)
    .join('')}${values.length === 0 ? '' : `, with ${values.join(', ')}`}`;
}
