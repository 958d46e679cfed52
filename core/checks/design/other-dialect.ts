import { type Dialect, dialects } from '../../dialects/index.js';
import type { Field, Model } from '../../model/index.js';
import type { Finding, Span, Weight } from '../../notation/index.js';
import type { DesignCheck } from '../check.js';

/**
 * What a text says that the database in use cannot have: SQL of another dialect, and rules that an engine refuses or
 * silently drops. Each with what becomes of it, and a way out.
 */
export const otherDialect: DesignCheck = {
  code: 'not-on-dialect',
  find(model, dialect) {
    const findings: Finding[] = [];
    const add = (weight: Weight, span: Span, message: string) =>
      findings.push({ weight, code: otherDialect.code, message, span, fixes: [] });
    if (model.dialect !== dialect.name) tellLosses(model, dialect, add);
    // What came in from a database stands there: it is told, and no error.
    const came = model.physical.asStated && model.dialect === dialect.name;
    tellRefusals(model, dialect, (weight, span, message) => add(came && weight === 'error' ? 'warning' : weight, span, message));
    return findings;
  },
};

type Add = (weight: Weight, span: Span, message: string) => void;

/** What is written in the SQL of the text's own dialect. */
function tellLosses(model: Model, { title, name }: Dialect, add: Add): void {
  const own = dialects[model.dialect].title;
  for (const { label, fields } of owners(model)) {
    for (const field of fields) {
      const { type, physical, span } = field;
      const about = `${label}.${field.name}`;
      if (type.kind === 'sql')
        add(
          'warning',
          span,
          `${about} has a type of ${own}, ${type.declaration}; on ${title} it is a text. Give it a type of the notation (json holds lists and ranges), or a table of its own.`,
        );
      if (type.kind === 'choice' && physical.declaration !== null)
        add('note', span, `${about} is an enumerated type of ${own}; on ${title} it is a text with a check of the same list.`);
      if (field.default?.kind === 'sql')
        add(
          'warning',
          span,
          `${about} has a default in SQL of ${own}, ${field.default.sql}; on ${title} it has none. Write a literal, today or now, or leave it to those who put rows in.`,
        );
      if (physical.generated !== null)
        add(
          'warning',
          span,
          `${about} is computed by ${own}; on ${title} it is an ordinary column. Write it as a derived field, ${field.name} = …, to have it computed anywhere.`,
        );
      if (physical.collation !== null)
        add(
          'note',
          span,
          `${about} is compared by ${own}’s collation ${physical.collation}; on ${title} by its letters, case and all.`,
        );
    }
  }
  const kept = [
    ...model.kept,
    ...Array.from(model.entities.values()).flatMap((entity) => entity.kept),
    ...Array.from(model.relations.values()).flatMap((relation) =>
      'keptInTable' in relation ? [...relation.kept, ...relation.keptInTable] : relation.kept,
    ),
  ];
  for (const { sql, dialect, span } of kept) {
    if (dialect !== model.dialect || dialect === name) continue;
    const head = sql.trim().split(/\s+/).slice(0, 4).join(' ');
    add(
      'warning',
      span,
      `“${head} …” is kept in the SQL of ${own} and left out on ${title}. Say it in a sentence, or keep another for it: kept '…' on ${name}.`,
    );
  }
}

/** Rules that an engine refuses, or takes without a word and does not keep. */
function tellRefusals(model: Model, { title, defers, powers }: Dialect, add: Add): void {
  if (powers.setsDefault && powers.carriesWithinTable && defers && powers.indexesText !== 'its beginning') return;
  for (const relation of model.relations.values()) {
    const { onDelete, onUpdate, name, span } = relation;
    if (!powers.setsDefault && (onDelete.value === 'set default' || onUpdate.value === 'set default'))
      add(
        'error',
        span,
        `${name}: ${title} takes “set default” and silently drops it. Write “set null” or “restrict”, or set the default where the parent is deleted.`,
      );
    if (
      !powers.carriesWithinTable &&
      relation.kind === 'key' &&
      relation.child === relation.parent &&
      onUpdate.value === 'cascade'
    )
      add('error', span, `${name}: ${title} does not carry a changed key on within one table. Leave “on update cascade” out.`);
    if (relation.deferred && !defers)
      add(
        relation.kind === 'key' && relation.required ? 'error' : 'note',
        span,
        `${name}: ${title} looks at each key at once, and cannot defer it.${relation.kind === 'key' && relation.required ? ' Make one end of the loop “knows at most one”.' : ''}`,
      );
  }
  if (powers.indexesText !== 'its beginning') return;
  for (const entity of model.entities.values()) {
    for (const field of entity.key.fields)
      if (field.type.kind === 'text' && (field.type.length === null || field.type.length > 768))
        add(
          'warning',
          field.span,
          `${entity.name}.${field.name} is a key, and ${title} keeps no key of a text without a length: it is made varchar(768) there. Give it a length, as text(190).`,
        );
  }
}

function owners(model: Model): { readonly label: string; readonly fields: readonly Field[] }[] {
  return [
    ...Array.from(model.entities.values(), ({ name, fields }) => ({ label: name, fields })),
    ...Array.from(model.relations.values()).flatMap((relation) =>
      'keptInTable' in relation ? [{ label: relation.name, fields: relation.fields }] : [],
    ),
  ];
}
