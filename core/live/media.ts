/** The media type of JSON:API, and the extension by which several writes are one (JSON:API 1.1, “Content Negotiation”; Atomic Operations). */
export const MEDIA_TYPE = 'application/vnd.api+json';
export const ATOMIC = 'https://jsonapi.org/ext/atomic';

interface Media {
  readonly type: string;
  readonly parameters: ReadonlyMap<string, string>;
}

/** A media type with its parameters, in whichever case (RFC 9110, 8.3.1). */
function mediaOf(written: string): Media {
  const [type = '', ...rest] = written.match(/(?:[^;"]|"(?:[^"\\]|\\.)*")+/g) ?? [];
  const parameters = new Map(
    rest.flatMap((one): [string, string][] => {
      const [, name = '', value = ''] = /^\s*([^=\s]+)\s*=\s*(.*?)\s*$/.exec(one) ?? [];
      return name === '' ? [] : [[name.toLowerCase(), value.replace(/^"(.*)"$/, '$1')]];
    }),
  );
  return { type: type.trim().toLowerCase(), parameters };
}

function extensionsIn({ parameters }: Media): readonly string[] {
  return (parameters.get('ext') ?? '').split(' ').filter((one) => one !== '');
}

/** Whether the parameters of a media type are those that a client may send, its extensions among those that are supported. */
function isSupported(media: Media, extensions: readonly string[]): boolean {
  for (const name of media.parameters.keys()) if (name !== 'ext' && name !== 'profile' && name !== 'q') return false;
  return extensionsIn(media).every((one) => extensions.includes(one));
}

/** Whether a body is of the media type, with all the extensions that it needs, and no other parameters. */
export function isBodyOf(contentType: string | undefined, needed: readonly string[]): boolean {
  if (contentType === undefined) return false;
  const media = mediaOf(contentType);
  const has = extensionsIn(media);
  return media.type === MEDIA_TYPE && isSupported(media, needed) && needed.every((one) => has.includes(one));
}

/** Whether an answer of the media type is let in: any that names it, or all types, without parameters that are unknown. */
export function isAccepted(accept: string | undefined): boolean {
  if (accept === undefined || accept.trim() === '') return true;
  const all = (accept.match(/(?:[^,"]|"(?:[^"\\]|\\.)*")+/g) ?? []).map(mediaOf);
  return all.some((media) => {
    if (media.parameters.get('q') === '0') return false;
    if (media.type === MEDIA_TYPE) return isSupported(media, [ATOMIC]);
    return media.type === '*/*' || media.type === 'application/*';
  });
}
