import { type KeyRelation, requiredLoops } from '../../model/index.js';
import { type Finding, type Syntax, withArticle } from '../../notation/index.js';
import type { DesignCheck } from '../check.js';

/**
 * Entities that each need a row of the next before they can have one. Where the engine can, one of the keys is looked at
 * when the transaction ends; else no first row can be put in. A database that others made is left as it is.
 */
export const requiredLoop: DesignCheck = {
  code: 'required-loop',
  find: (model, dialect, syntax) =>
    requiredLoops(model).flatMap((loop): Finding[] => {
      const last = loop.at(-1);
      if (last === undefined) return [];
      const needs = loop.map((relation) => `${relation.child} needs ${withArticle(relation.parent)}`).join(', ');
      const common = { code: requiredLoop.code, span: last.head };
      if (dialect.defers && !model.physical.asStated)
        return [
          {
            ...common,
            weight: 'note',
            fixes: [],
            message: `${needs}: a first row of each goes in within one transaction, since the key of ${last.name} is looked at when it ends only.`,
          },
        ];
      return [
        {
          ...common,
          weight: model.physical.asStated ? 'warning' : 'error',
          message: dialect.defers
            ? `No first row can be put in: ${needs}. Make one of them “knows at most one”, or write “deferred” below its relation, so that it is looked at when the transaction ends.`
            : `No first row can be put in: ${needs}, and ${dialect.title} looks at each key at once. Make one of them “knows at most one”.`,
          fixes: optional(syntax, last),
        },
      ];
    }),
};

/** The sentence of a relation’s key, without its promise. */
function optional(syntax: Syntax, relation: KeyRelation): Finding['fixes'] {
  const declaration = syntax.declarations.find((one) => one.kind === 'relation' && one.name.text === relation.name);
  const sentence =
    declaration?.kind === 'relation'
      ? declaration.lines.find((line) => line.kind === 'sentence' && line.role.text === relation.childRole)
      : undefined;
  if (sentence?.kind !== 'sentence' || sentence.subjects?.length !== 1) return [];
  const text = `${relation.child} knows at most one ${relation.parent} as ${sentence.role.text}`;
  const span = { start: sentence.span.start, end: sentence.role.span.end };
  return [{ title: `Let ${withArticle(relation.child)} be without ${withArticle(relation.parent)}`, edits: [{ span, text }] }];
}
