import type { DesignCheck } from '../check.js';

const CODES = /(^|_)(zip|postcode|postal_code|phone|telephone|fax|iban|isbn|ean|barcode)($|_)/;

/** A code kept as a number loses its leading zeros. */
export const numberCode: DesignCheck = {
  code: 'number-code',
  find: (model) =>
    Array.from(model.entities.values()).flatMap((entity) =>
      entity.fields
        .filter(
          (field) => ['integer', 'bigint', 'decimal', 'real'].includes(field.type.kind) && CODES.test(field.name.toLowerCase()),
        )
        .map((field) => ({
          weight: 'warning' as const,
          code: numberCode.code,
          message: `${entity.name}.${field.name} is a code, and as a number it loses leading zeros. Make it text(20).`,
          span: field.span,
          fixes: [],
        })),
    ),
};
