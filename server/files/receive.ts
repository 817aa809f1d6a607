import { PassThrough } from 'node:stream';
import busboy from 'busboy';
import type { Request } from 'express';
import { Problem } from '../../core/refusals/problem';

/** Hands on the one file of a form (multipart/form-data, RFC 7578) as it arrives, and gives what came of it. */
export function receiveFile<T>(
  req: Request,
  keep: (name: string, bytes: AsyncIterable<Uint8Array>) => Promise<T>,
): Promise<T> {
  return new Promise((resolve, reject) => {
    let form: busboy.Busboy;
    try {
      form = busboy({ headers: req.headers, defParamCharset: 'utf8', limits: { files: 1, fields: 0 } });
    } catch {
      reject(new Problem(415, 'unreadable', 'Send the file as a form.'));
      return;
    }
    let kept: Promise<T> | null = null;
    form.on('file', (_name, stream, { filename }) => {
      const passing = stream.pipe(new PassThrough());
      stream.on('error', (error) => passing.destroy(error));
      req.on('aborted', () =>
        passing.destroy(new Problem(400, 'unreadable', 'The file did not arrive whole. Send it again.')),
      );
      kept = keep(filename || 'file', passing as AsyncIterable<Uint8Array>);
      kept.catch((error: unknown) => {
        req.unpipe(form);
        req.resume();
        reject(error as Error);
      });
    });
    form.on('error', () => reject(new Problem(400, 'unreadable', 'The file did not arrive whole. Send it again.')));
    form.on('close', () =>
      kept ? kept.then(resolve, reject) : reject(new Problem(400, 'invalid-input', 'Choose a file.')),
    );
    req.pipe(form);
  });
}
