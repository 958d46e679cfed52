import type { DesignCheck } from '../check.js';
import { typeOf } from '../places.js';

const CODES = /(^|_)(zip|postcode|postal_code|phone|telephone|fax|iban|isbn|ean|barcode)($|_)/;

/** A code kept as a number loses its leading zeros. */
export const numberCode: DesignCheck = {
  code: 'number-code',
  find: (model, _dialect, syntax) =>
    Array.from(model.entities.values()).flatMap((entity) =>
      entity.fields
        .filter(
          (field) => ['integer', 'bigint', 'decimal', 'real'].includes(field.type.kind) && CODES.test(field.name.toLowerCase()),
        )
        .map((field) => {
          const type = typeOf(syntax, field.span);
          return {
            weight: 'warning' as const,
            code: numberCode.code,
            message: `${entity.name}.${field.name} is a code, and as a number it loses leading zeros. Make it text(20).`,
            span: field.span,
            // A default or a list of values would no longer fit.
            fixes:
              type === null || field.default !== null || field.allowed !== null
                ? []
                : [{ title: 'Make it text(20)', edits: [{ span: type, text: 'text(20)' }] }],
          };
        }),
    ),
};
