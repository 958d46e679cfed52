import type { Field } from '../../model/index.js';
import type { ValueType } from '../../values/index.js';
import type { DesignCheck } from '../check.js';
import { afterType } from '../places.js';

/**
 * Names that end in a secret: `reset_token` is one, `token_count` and `change_password_url` are what their last word says. A
 * hash is a secret only of one.
 */
const SECRETS =
  /(^|_)(password|passwd|passphrase|secret|token|salt|pin|otp|(api|private|secret|access|signing|encryption)_key|gate_code|(password|passwd|passphrase|secret|token|pin)_(hash|digest))$/;
const WORDS = /(?<=[a-z0-9])(?=[A-Z])/g;
/** What holds a secret: texts and bytes, and the digits of a code. */
const HOLDS: ReadonlySet<ValueType['kind']> = new Set(['text', 'bytes', 'json', 'sql', 'integer', 'bigint']);

/** A field that looks like a secret, and goes out with every row. */
export const secretField: DesignCheck = {
  code: 'secret-field',
  find: (model, _dialect, syntax) =>
    Array.from(model.entities.values()).flatMap((entity) =>
      entity.fields
        .filter((field) => field.owner === entity.name && !field.hidden && looksSecret(field))
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

function looksSecret({ name, type }: Field): boolean {
  return HOLDS.has(type.kind) && SECRETS.test(name.replace(WORDS, '_').toLowerCase());
}
