import { parseParameters } from '../../../core/notation/index.js';
import type { DesignView, ParameterView } from '../../../core/view-models/index.js';

/** The parameters that a typed head declares, as behind a query's name: `branch Branch, since date`. */
export function headParameters(head: string, view: DesignView | null): readonly ParameterView[] {
  return (parseParameters(head) ?? []).map(({ name, type, many, optional }) => {
    const named = type.kind === 'named' ? type.name.text : null;
    const entity = view?.entities.some((candidate) => candidate.name === named) === true ? named : null;
    return {
      name: name.text,
      type: named ?? type.kind,
      entity,
      values:
        type.kind === 'boolean' ? ['true', 'false'] : (view?.choices.find((choice) => choice.name === named)?.values ?? null),
      optional,
      many,
    };
  });
}
