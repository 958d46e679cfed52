import { resourcesOf } from '../live/index.js';
import type { Model } from '../model/index.js';

/** A field, and the doors by which its values or its name leave. */
export interface LeavingField {
  readonly entity: string;
  readonly field: string;
  /** Its values are told by the live endpoint. */
  readonly told: boolean;
  /** A caller of the endpoint may set it when a row is made, and change it afterwards. */
  readonly made: boolean;
  readonly changed: boolean;
  /** What marks it, where something does. */
  readonly mark: 'hidden' | 'internal' | 'fixed' | 'key' | null;
}

/** Which fields of which entities leave by the live endpoint, and which come in by it. */
export function leavingFields(model: Model): readonly LeavingField[] {
  return Array.from(resourcesOf(model).byName.values()).flatMap(({ entity }) =>
    entity.fields.map((field): LeavingField => {
      const { hidden, internal, fixed, key } = field;
      const isSet = !internal && !entity.given;
      return {
        entity: entity.name,
        field: field.name,
        told: !hidden,
        made: isSet,
        changed: isSet && !fixed && !key,
        mark: hidden ? 'hidden' : internal ? 'internal' : fixed ? 'fixed' : key ? 'key' : null,
      };
    }),
  );
}
