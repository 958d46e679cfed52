import type { EntityLabel } from '../map/index.js';
import type { Model } from '../model/index.js';

/** A label without the lines of fields that are hidden: their names leave no more than their values. */
export function withoutHidden(model: Model, label: EntityLabel): EntityLabel {
  const hidden = new Set(
    (model.entities.get(label.id)?.fields ?? []).filter((field) => field.hidden).map(({ column }) => column.value),
  );
  const names = new Set((model.entities.get(label.id)?.fields ?? []).filter((field) => field.hidden).map(({ name }) => name));
  return { ...label, lines: label.lines.filter(({ text }) => !hidden.has(text) && !names.has(text)) };
}
