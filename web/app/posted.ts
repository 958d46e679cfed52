/** How a request is followed while it is under way. */
export interface Posting {
  /** Is told how much of a file has been sent, from 0 to 1. */
  readonly onSent?: (share: number) => void;
  /** Ends it. */
  readonly signal?: AbortSignal;
}

/**
 * Posts a file, or a message as JSON, and gives the answer's status and its JSON. Only this older interface of the browser tells how
 * much of a file is sent.
 *
 * @throws where there is no answer, or the request was ended
 */
export function posted(
  address: string,
  content: File | object,
  { onSent = () => undefined, signal }: Posting = {},
): Promise<{ readonly status: number; readonly body: unknown }> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open('POST', address);
    const isFile = content instanceof File;
    if (isFile) request.upload.onprogress = ({ loaded, total }) => onSent(total === 0 ? 1 : loaded / total);
    request.onload = () => {
      try {
        resolve({ status: request.status, body: JSON.parse(request.responseText) as unknown });
      } catch (error) {
        reject(error instanceof Error ? error : new Error(String(error)));
      }
    };
    request.onerror = () => reject(new Error('no answer'));
    request.onabort = () => reject(new Error('stopped'));
    signal?.addEventListener('abort', () => request.abort(), { once: true });
    request.setRequestHeader('content-type', isFile ? 'application/octet-stream' : 'application/json');
    request.send(isFile ? content : JSON.stringify(content));
  });
}
