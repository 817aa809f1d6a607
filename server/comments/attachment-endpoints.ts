import Joi from 'joi';
import type { Sequelize } from 'sequelize';
import { circles, type Circle } from '../../core/definition/hung';
import { fileHeaders } from '../files/file-headers';
import { sendBytes, smallBytes } from '../files/stored-file';
import { NotFound } from '../gate/gate';
import { form, listOf, said, saidOrNull, whole, yesNo } from '../http/answers';
import { endpoint, FileAnswer, oneFile, ownNumber, reply, type Entry } from '../http/endpoint';
import type { StoredFile } from '../store/models';
import { refuseSeenBy } from '../visits/entries';
import type { PortalVisit } from '../visits/member-visit';
import {
  attach,
  attachmentOf,
  attachmentsOf,
  pictureOf,
  takeOutAttachment,
  type AttachmentsTold,
  type AttachmentTold,
} from './attachments';
import { hungTold } from './hung-on';

const circle = Joi.valid(...circles);

const attachments = form<AttachmentsTold>({
  files: listOf(
    form<AttachmentTold>({ ...hungTold, file: saidOrNull, type: said.allow(''), size: whole, hasSmall: yesNo }),
  ),
  writes: listOf(circle),
});

/** Files that hang on records, for those who see these. */
export function attachmentEndpoints(entry: Entry<{ visit: PortalVisit }>, sequelize: Sequelize) {
  const smallOf = async (file: StoredFile | null) => {
    const bytes = file && (await smallBytes(sequelize, file.id));
    if (!bytes) throw new NotFound('file');
    return { bytes, headers: fileHeaders({ name: `${file.name}.webp`, type: 'image/webp', size: bytes.length }) };
  };
  return {
    attachments: endpoint({
      method: 'GET',
      path: '/records/:table/:id/attachments',
      says: 'The files that hang on a record, as far as you may open them.',
      entry,
      answers: { 200: attachments },
      does: ({ visit, params: { table, id } }) => attachmentsOf(visit, table, id),
    }),
    attach: endpoint({
      method: 'POST',
      path: '/records/:table/:id/attachments',
      says: 'Hangs a file on a record, for all who open files there or for those of the inner circle.',
      entry,
      query: Joi.object<{ circle: Circle }>({ circle: circle.required() }),
      body: oneFile,
      answers: { 201: form<{ id: number }>({ id: whole }) },
      does: async ({ visit, params: { table, id }, query, req, res }) => {
        refuseSeenBy(visit);
        const again = () => entry.open(req, res, { reads: false, personal: false });
        return { id: await attach(sequelize, visit, table, id, query.circle, req, again) };
      },
    }),
    openAttachment: endpoint({
      method: 'GET',
      path: '/records/:table/:id/attachments/:attachment',
      says: 'A file that hangs on a record.',
      entry,
      params: { attachment: ownNumber },
      answers: { 200: new FileAnswer('application/octet-stream', 'image/*') },
      does: async ({ visit, params: { table, id, attachment }, res }) => {
        const file = await attachmentOf(visit, table, id, attachment);
        res.set(fileHeaders(file));
        await sendBytes(sequelize, file.id, res);
      },
    }),
    smallAttachment: endpoint({
      method: 'GET',
      path: '/records/:table/:id/attachments/:attachment/small',
      says: 'A picture that hangs on a record, in small.',
      entry,
      params: { attachment: ownNumber },
      answers: { 200: new FileAnswer('image/*') },
      does: async ({ visit, params: { table, id, attachment }, res }) => {
        const { bytes, headers } = await smallOf(await attachmentOf(visit, table, id, attachment));
        res.set(headers).end(bytes);
      },
    }),
    picture: endpoint({
      method: 'GET',
      path: '/records/:table/:id/picture',
      says: 'The newest picture that hangs on a record, in small; nothing where there is none that you may see.',
      entry,
      answers: { 200: new FileAnswer('image/*'), 204: null },
      does: async ({ visit, params: { table, id }, res }) => {
        const file = await pictureOf(visit, table, id);
        if (!file) return reply(204, undefined);
        const { bytes, headers } = await smallOf(file);
        res.set(headers).end(bytes);
      },
    }),
    takeOutAttachment: endpoint({
      method: 'DELETE',
      path: '/records/:table/:id/attachments/:attachment',
      says: 'Takes out a file: your own, or anybody’s where you may.',
      entry,
      params: { attachment: ownNumber },
      answers: { 204: null },
      does: async ({ visit, params: { table, id, attachment } }) => {
        refuseSeenBy(visit);
        await takeOutAttachment(visit, table, id, attachment);
      },
    }),
  };
}
