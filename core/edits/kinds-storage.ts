import type { Design } from '../design/index.js';
import type { KindsStorage } from '../model/index.js';
import type { Edit } from '../notation/index.js';

/** The ways to store kinds, in the order in which they are compared. */
export const KINDS_STORAGES: readonly KindsStorage['kind'][] = ['single table', 'joined tables', 'separate tables', 'json'];

/**
 * Another way to store the kinds of a base: its line `kinds in …`, and for separate tables a key that no two of them can
 * share. Nothing where the text has no such base.
 */
export function setKindsStorage(design: Design, root: string, storage: KindsStorage['kind']): Edit[] {
  const { model, syntax } = design;
  const entity = model.entities.get(root);
  const declaration = syntax.declarations.find((one) => one.kind === 'entity' && one.name.text === root);
  if (entity === undefined || entity.kinds === null || declaration?.kind !== 'entity') return [];
  const line = declaration.lines.find((one) => one.kind === 'kinds');
  if (line === undefined || entity.kinds.storage.kind === storage) return [];
  const now = entity.kinds.storage;
  const mark = 'mark' in now ? now.mark : freeName(entity.fields, 'kind');
  const edits: Edit[] = [{ span: line.span, text: `kinds in ${written(storage, mark, freeName(entity.fields, 'details'))}` }];
  const numbered = entity.key.type.kind === 'integer' || entity.key.type.kind === 'bigint';
  const field = declaration.lines.find((one) => one.kind === 'field' && one.name.text === entity.key.name);
  if (storage === 'separate tables' && numbered && entity.kinds.concrete.length > 1 && field?.kind === 'field')
    edits.push({ span: field.type.span, text: 'uuid' });
  return edits;
}

function written(storage: KindsStorage['kind'], mark: string, json: string): string {
  switch (storage) {
    case 'separate tables':
      return 'separate tables';
    case 'json':
      return `json ${json} by ${mark}`;
    default:
      return `${storage} by ${mark}`;
  }
}

function freeName(fields: readonly { readonly column: { readonly value: string } }[], wish: string): string {
  const taken = new Set(fields.map(({ column }) => column.value.toLowerCase()));
  let name = wish;
  for (let number = 2; taken.has(name); number++) name = `${wish}_${number}`;
  return name;
}
