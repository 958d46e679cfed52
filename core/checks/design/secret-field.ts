import type { DesignCheck } from '../check.js';
import { afterType } from '../places.js';

const SECRETS = /(^|_)(password|passwd|passphrase|secret|token|api_key|private_key|salt|hash|pin|gate_code|otp)($|_)/;

/** A field that looks like a secret, and goes out with every row. */
export const secretField: DesignCheck = {
  code: 'secret-field',
  find: (model, _dialect, syntax) =>
    Array.from(model.entities.values()).flatMap((entity) =>
      entity.fields
        .filter((field) => field.owner === entity.name && !field.hidden && SECRETS.test(field.name.toLowerCase()))
        .map((field) => {
          const at = afterType(syntax, field.span);
          return {
            weight: 'warning' as const,
            code: secretField.code,
            message: `${entity.name}.${field.name} looks like a secret, and is part of every row that is loaded. Write “hidden”, so that it is never handed out.`,
            span: field.span,
            fixes: at === null ? [] : [{ title: 'Hide it', edits: [{ span: { start: at, end: at }, text: ' hidden' }] }],
          };
        }),
    ),
};
