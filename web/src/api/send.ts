/** Sending a file and telling how far it is: fetch can't, XMLHttpRequest can. */
import { author, windowId } from '../state/window';
import { root } from './root';

export type Sent = { data?: unknown; error?: unknown; response: Response };

/** Send a form with one file (and other fields); `tell` hears which share has gone out, and `signal` stops it. Rejects where the server does not answer. */
export function send(
  path: string,
  field: string,
  file: File,
  tell: (share: number) => void,
  more: Record<string, string> = {},
  signal?: AbortSignal,
): Promise<Sent> {
  const form = new FormData();
  form.set(field, file);
  for (const [name, value] of Object.entries(more)) form.set(name, value);
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open('POST', root + path);
    request.setRequestHeader('Texallon-Window', windowId);
    request.setRequestHeader('Texallon-Author', encodeURIComponent(author()));
    request.upload.onprogress = (event) => event.lengthComputable && tell(event.loaded / event.total);
    request.upload.onload = () => tell(1);
    request.onerror = () => reject(new Error('no answer'));
    request.onabort = () => reject(new DOMException('stopped', 'AbortError'));
    request.onload = () => {
      const response = new Response(null, { status: request.status });
      let body: unknown;
      try {
        body = JSON.parse(request.responseText);
      } catch {
        body = undefined;
      }
      resolve(response.ok ? { data: body, response } : { error: body, response });
    };
    signal?.addEventListener('abort', () => request.abort());
    request.send(form);
  });
}
