import { openDoor, type Door } from './door';

/** Takes whatever it is told, signed as it must be; `files` can be fetched there as delimited text, by their path. */
export const openReceiver = (files: Record<string, string>, port?: number): Promise<Door> =>
  openDoor({
    title: 'Calls of the demo',
    port,
    answer: () => ({ status: 204, text: '' }),
    pages: Object.fromEntries(
      Object.entries(files).map(([path, text]) => [path, () => ({ type: 'text/csv; charset=utf-8', text })]),
    ),
  });
