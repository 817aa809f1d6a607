import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { RecordApi } from '../../server/api';
import type { Circle } from '../../core/definition/hung';
import { formOf } from './http';
import { recordAddress, records } from './portal';

export type AttachmentTold = RecordApi['GET /records/:table/:id/attachments']['answer']['files'][number];

export function useAttachments(base: string, table: string, id: string) {
  return useQuery({
    queryKey: [base, 'attachments', table, id],
    queryFn: () => records(base)('GET /records/:table/:id/attachments', { params: { table, id } }),
  });
}

/** Hangs files on a record and takes them out. */
export function useHanging(base: string, table: string, id: string) {
  const client = useQueryClient();
  const done = { onSuccess: () => client.invalidateQueries({ queryKey: [base, 'attachments', table, id] }) };
  const ask = records(base);
  return {
    add: useMutation({
      mutationFn: ({ file, circle }: { file: File; circle: Circle }) =>
        ask('POST /records/:table/:id/attachments', { params: { table, id }, query: { circle }, body: formOf(file) }),
      ...done,
    }),
    takeOut: useMutation({
      mutationFn: (attachment: number) =>
        ask('DELETE /records/:table/:id/attachments/:attachment', { params: { table, id, attachment } }),
      ...done,
    }),
  };
}

/** The addresses of a file that hangs on a record: whole, and as a picture in small. */
export function attachmentAddresses(base: string, table: string, id: string, attachment: number) {
  const at = recordAddress(base);
  const params = { table, id, attachment };
  return {
    whole: at('GET /records/:table/:id/attachments/:attachment', { params }),
    small: at('GET /records/:table/:id/attachments/:attachment/small', { params }),
  };
}

/** The address of the newest picture that hangs on a record. */
export const pictureOfRecord = (base: string, table: string, id: string): string =>
  recordAddress(base)('GET /records/:table/:id/picture', { params: { table, id } });
