/** The forms of relations as tables have them: one file each, and one line here. */
import type { Relation } from '../../model/index.js';
import type { RelationForm } from './form.js';
import { keyForm } from './key.js';
import { pivotForm } from './pivot.js';
import { polymorphicForm } from './polymorphic.js';
import { polymorphicPivotForm } from './polymorphic-pivot.js';

export type { FormSite } from './form.js';

type Forms = { readonly [Kind in Relation['kind']]: RelationForm<Extract<Relation, { kind: Kind }>> };

const forms: Forms = {
  key: keyForm,
  pivot: pivotForm,
  polymorphic: polymorphicForm,
  'polymorphic pivot': polymorphicPivotForm,
};

/** The form of a relation. */
export function formOf<Form extends Relation>(relation: Form): RelationForm<Form> {
  // A table cannot say that what stands under a kind is for relations of that kind; its type above does.
  return forms[relation.kind] as RelationForm<Relation> as RelationForm<Form>;
}
