import type { ResourceObject } from './document.js';
import { MEDIA_TYPE } from './media.js';
import type { ResourceType } from './resources.js';

/** A request as a line for a shell, that does as it stands. */
export interface CurlLine {
  readonly what: string;
  readonly line: string;
}

/** What the lines are written for. */
export interface CurlOptions {
  /** The address of the endpoint, whole. */
  readonly address: string;
  /** On whose behalf; empty for the system. */
  readonly as: string;
  readonly token: string;
  /** A resource that there is, by which examples are filled; null where there is none. */
  readonly example: Pick<ResourceObject, 'type' | 'id' | 'attributes' | 'relationships'> | null;
}

/** The lines by which resources of a type are listed, read, added, changed and removed. */
export function curlLines(type: ResourceType, options: CurlOptions): readonly CurlLine[] {
  const { address, example } = options;
  const { entity, name, relationships } = type;
  const head = `curl -g ${shellText(`${address}/${name}`)}`;
  const who = actorIn(options);
  const along = relationships.slice(0, 2).map(({ member }) => member);
  const id = example?.id ?? '1';
  const own = `curl -g ${shellText(`${address}/${example?.type ?? name}/${encodeURIComponent(id)}`)}`;
  const body = (data: object) => ` -H 'Content-Type: ${MEDIA_TYPE}' -d ${shellText(JSON.stringify({ data }))}`;
  const lines: CurlLine[] = [
    { what: 'a page of them', line: `curl -g ${shellText(`${address}/${name}?page[size]=10&page[total]=true`)}${who}` },
    { what: 'one', line: `${own}${who}` },
  ];
  if (along.length > 0)
    lines.push({
      what: `with ${along.join(' and ')}`,
      line: `curl -g ${shellText(`${address}/${example?.type ?? name}/${encodeURIComponent(id)}?include=${along.join(',')}`)}${who}`,
    });
  if (entity.given) return lines;
  const made = example === null ? null : newOf(type, example);
  if (made !== null && entity.kinds?.abstract !== true) lines.push({ what: 'add one', line: `${head}${who}${body(made)}` });
  const changed = example === null ? null : changeOf(type, example);
  if (changed !== null) lines.push({ what: 'change one', line: `${own} -X PATCH${who}${body(changed)}` });
  lines.push({ what: 'remove one', line: `${own} -X DELETE${who}` });
  return lines;
}

function actorIn({ as, token }: CurlOptions): string {
  return as === ''
    ? ` -H 'Actor: system' -H ${shellText(`Authorization: Bearer ${token}`)}`
    : ` -H ${shellText(`Actor: ${encodeURIComponent(as)}`)}`;
}

/** A text as a shell takes it, whatever is in it (POSIX.1, Shell Command Language, 2.2.2). */
function shellText(text: string): string {
  return `'${text.replaceAll("'", "'\\''")}'`;
}

type Example = NonNullable<CurlOptions['example']>;

/** What a caller may set of an example, with other values where they have to be its own. */
function newOf(type: ResourceType, { attributes, relationships }: Example): object {
  const given = type.attributes.flatMap(({ member, stored }): [string, unknown][] => {
    if (stored === null || stored.internal || (stored.key && stored.type.kind !== 'text')) return [];
    const value = attributes[member];
    if (value === undefined || value === null) return [];
    const isUnique = stored.unique !== null || stored.key;
    return [
      [
        member,
        isUnique && typeof value === 'string' ? otherText(value, stored.type.kind === 'text' ? stored.type.length : null) : value,
      ],
    ];
  });
  const roles = type.relationships.flatMap((over): [string, object][] => {
    const data = relationships[over.member]?.data;
    return over.many || over.readOnly || data === undefined || data === null || Array.isArray(data)
      ? []
      : [[over.member, { data }]];
  });
  return { type: type.name, attributes: Object.fromEntries(given), relationships: Object.fromEntries(roles) };
}

/** Another text that is no longer than its field. */
function otherText(value: string, length: number | null): string {
  const most = length ?? value.length + 2;
  return value.length + 2 <= most ? `${value}-2` : `${value.slice(0, most - 2)}-2`;
}

/** The first attribute that may be changed, as it is. */
function changeOf(type: ResourceType, { type: name, id, attributes }: Example): object | null {
  const first = type.attributes.find(
    ({ member, stored }) =>
      stored !== null && !stored.internal && !stored.fixed && !stored.key && stored.unique === null && attributes[member] != null,
  );
  return first === undefined ? null : { type: name, id, attributes: { [first.member]: attributes[first.member] } };
}
