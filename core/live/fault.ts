/** What is wrong with a request, or stands against it, as an error object of JSON:API 1.1 (“Error Objects”). */
export interface LiveFault {
  readonly status: number;
  /** Words that are the same for all of its kind. */
  readonly title: string;
  /** What is wrong with this one, for a person. */
  readonly detail: string;
  /** Where it stands: a place in the body as a JSON pointer (RFC 6901), a parameter of the address, or a header. */
  readonly source: { readonly pointer: string } | { readonly parameter: string } | { readonly header: string } | null;
}

const TITLES: Readonly<Record<number, string>> = {
  400: 'The address asks for what there is not',
  401: 'Whoever asks has not said who',
  403: 'This may not be done',
  404: 'There is no such thing',
  405: 'This is not done here',
  406: 'No answer of this kind',
  409: 'It stands against what is there',
  412: 'It was changed in the meantime',
  413: 'Too much at once',
  415: 'The body is of another kind',
  422: 'A value does not fit',
  428: 'Say what it is to be',
  429: 'Too many at once',
  500: 'A fault of this program',
  503: 'The database does not answer',
};

/** A fault with the title of its kind. */
export function fault(status: number, detail: string, source: LiveFault['source'] = null): LiveFault {
  return { status, title: TITLES[status] ?? 'Refused', detail, source };
}

/** Ends the answering of a request with what is wrong with it. */
export class Faulty extends Error {
  constructor(readonly faults: readonly LiveFault[]) {
    super(faults.map(({ detail }) => detail).join(' '));
  }
}

/** @throws Faulty */
export function refuse(status: number, detail: string, source: LiveFault['source'] = null): never {
  throw new Faulty([fault(status, detail, source)]);
}

/** Faults as a document. */
export function faultsDocument(faults: readonly LiveFault[]): object {
  return {
    jsonapi: { version: '1.1' },
    errors: faults.map(({ status, title, detail, source }) => ({
      status: String(status),
      title,
      detail,
      ...(source === null ? {} : { source }),
    })),
  };
}

/** The status of several: their own where they agree, else the general one of their hundred. */
export function statusOf(faults: readonly LiveFault[]): number {
  const [first] = faults;
  if (first === undefined) return 500;
  if (faults.every(({ status }) => status === first.status)) return first.status;
  return Math.max(...faults.map(({ status }) => Math.floor(status / 100) * 100));
}
