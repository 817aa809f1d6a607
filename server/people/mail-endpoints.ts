import Joi from 'joi';
import { mailKinds, type MailKind, type MailWords } from '../../core/mail/mail-words';
import { mailProblem, mailWords } from '../../core/people/mails';
import { Problem } from '../../core/refusals/problem';
import { counted } from '../../core/text/counted';
import { writeAudit } from '../audit/audit';
import { atPortal, openDraft, type BenchServices, type OpenDraft } from '../bench/bench';
import { form, listOf, moment, said, saidOrNull, whole, wholeOrNull, yesNo } from '../http/answers';
import { endpoint, ownNumber } from '../http/endpoint';
import { jobState } from '../jobs/job-answers';
import type { Jobs } from '../jobs/jobs';
import { mailSecurities, mailServerKeys, type MailServer, type MailServerForm } from '../mail/mail-server';
import { linkLasts } from './links';
import { momentText, valuesOfMembers, type MailSource } from './mail-values';
import { readAddress } from '../mail/own-address';
import { mailWriter, type WrittenMail } from '../mail/written-mail';
import { findMails, oneMail, sendAgain, type MailPage, type OutboxEntry, type OutboxMailInfo } from './find-mails';
import { tryServer } from '../outbox/try-server';
import { builders, refuseNoOwner } from '../sessions/as-builder';
import { readSetting } from '../store/store';
import { memberOf } from './administer';
import { callingTo } from './calling';
import { cancelWaiting, countInvitations, invitationOrder, linksAsFile, type InvitationOutcome } from './invitations';

const momentOrNull = moment.allow(null);
const outboxStates = ['held', 'waiting', 'sending', 'sent', 'given up', 'unsure', 'cancelled'] as const;

const entryKeys = {
  id: whole,
  kind: said,
  recipient: said,
  name: saidOrNull,
  memberId: wholeOrNull,
  subject: said,
  state: Joi.valid(...outboxStates),
  tries: whole,
  answer: saidOrNull,
  madeAt: moment,
  nextTry: momentOrNull,
  sentAt: momentOrNull,
};

const writtenKeys = { subject: said, text: said, html: said };

const words = Joi.object<MailWords>({
  subject: Joi.string().max(200).allow('').required(),
  text: Joi.string().max(10_000).allow('').required(),
});

const read = ({ source: runner, catalogue, definition }: OpenDraft): MailSource => ({ runner, catalogue, definition });

function refuseUnpublished({ publishedVersion }: { publishedVersion: number | null }): void {
  if (publishedVersion === null)
    throw new Problem(409, 'not-published', 'Publish the portal first: an invitation leads to what is published.');
}

/** Mails of a portal: the server they go through, their words, invitations, and the outbox. */
export function mailEndpoints(services: BenchServices, jobs: Jobs) {
  const draft = openDraft(services);
  const portal = atPortal(services);
  const { mailServers, outbox } = services;

  /** A mail as a person would get it, with links and codes that lead nowhere. */
  const previewOf = async (at: OpenDraft, kind: MailKind, id: number, as: MailWords): Promise<WrittenMail> => {
    const problem = mailProblem(at.definition, at.catalogue, kind, as);
    if (problem !== null) throw new Problem(422, 'mail', problem);
    const member = await memberOf(at.portal.id, id);
    const values = (await valuesOfMembers(read(at), as, [member])).get(id)!;
    const lasts = kind === 'code' ? 600_000 : kind === 'forgotten' ? linkLasts.password : linkLasts.invitation;
    return mailWriter(as).written({
      ...values,
      link: `${await readAddress(at.portal.id)}/p/${at.portal.slug}`,
      code: '000000',
      until: momentText(new Date(Date.now() + lasts), at.definition.portal),
    });
  };

  return {
    mailServer: endpoint({
      method: 'GET',
      path: '/mail-server',
      says: 'The mail server through which this installation sends, without its password.',
      entry: portal,
      answers: {
        200: form<{ server: MailServer | null; box: string | null }>({
          server: form<MailServer>({
            host: said,
            port: whole,
            security: Joi.valid(...mailSecurities),
            user: said,
            sender: said,
            senderName: said,
          }).allow(null),
          box: saidOrNull,
        }),
      },
      does: async () => {
        const kept = await mailServers.read();
        if (!kept) return { server: null, box: null };
        const { sealedPassword: _sealed, ...server } = kept;
        return { server, box: await readSetting('mail box') };
      },
    }),
    setMailServer: endpoint({
      method: 'PUT',
      path: '/mail-server',
      says: 'Sets the mail server of the whole installation. An empty password keeps the one that is there.',
      entry: portal,
      body: Joi.object<MailServerForm>({ ...mailServerKeys, password: Joi.string().max(1000).allow('').default('') }),
      answers: { 204: null },
      does: async ({ portal: at, builder, signed, body }) => {
        // Codes and links of every portal go through it.
        refuseNoOwner(builder);
        await mailServers.save(body);
        await writeAudit(at.id, signed, 'set the mail server', `${body.host}:${body.port}, from ${body.sender}`);
        outbox.wake();
      },
    }),
    tryMailServer: endpoint({
      method: 'POST',
      path: '/mail-server/try',
      says: 'Sends a mail to the builder who asks, and waits for what the mail server says.',
      entry: portal,
      answers: { 200: form<{ fine: boolean; answer: string }>({ fine: yesNo, answer: said }) },
      does: ({ builder }) => tryServer(mailServers, builder.email),
    }),
    previewMail: endpoint({
      method: 'POST',
      reads: true,
      path: '/mails/preview',
      says: 'A mail as a member would get it, with links and codes that lead nowhere.',
      personal: true,
      entry: draft,
      body: Joi.object<{ kind: MailKind; member: number; words: MailWords | null }>({
        kind: Joi.valid(...mailKinds).required(),
        member: ownNumber.required(),
        words: words.allow(null).default(null),
      }),
      answers: { 200: form<WrittenMail>(writtenKeys) },
      does: ({ draft: at, body: { kind, member, words: given } }) =>
        previewOf(at, kind, member, given ?? mailWords(at.definition, kind)),
    }),
    tryMail: endpoint({
      method: 'POST',
      path: '/mails/try',
      says: 'Sends the builder who asks what a member would get, with links and codes that lead nowhere.',
      personal: true,
      entry: draft,
      body: Joi.object<{ kind: MailKind; member: number }>({
        kind: Joi.valid(...mailKinds).required(),
        member: ownNumber.required(),
      }),
      answers: { 204: null },
      does: async ({ draft: at, builder, body: { kind, member } }) => {
        const mail = await previewOf(at, kind, member, mailWords(at.definition, kind));
        await outbox.queue([
          { ...mail, portalId: at.portal.id, memberId: null, kind: 'try', recipient: builder.email, secret: null },
        ]);
      },
    }),
    countInvitations: endpoint({
      method: 'POST',
      reads: true,
      path: '/invitations/count',
      says: 'How many members an order would write to, and why not to the others. Sends nothing.',
      entry: portal,
      body: invitationOrder,
      answers: { 200: form<InvitationOutcome>({ queued: whole, skipped: Joi.object().unknown() }) },
      does: ({ portal: at, body }) => countInvitations(at.id, body),
    }),
    invite: endpoint({
      method: 'POST',
      path: '/invitations',
      says: "Begins a job that writes to members. What was sent can't be taken back.",
      entry: portal,
      body: invitationOrder,
      answers: { 202: jobState },
      does: async ({ portal: at, builder, body }) => {
        refuseUnpublished(at);
        if (!(await mailServers.read()))
          throw new Problem(409, 'no-mail-server', 'Set the mail server first, under People, Outbox.');
        return jobs.start('send invitations', at.id, builders(builder), body);
      },
    }),
    takeLinks: endpoint({
      method: 'POST',
      path: '/invitations/links',
      says: 'The links of an order as delimited text, for another program to send. Who stands in it counts as invited.',
      personal: true,
      entry: draft,
      body: invitationOrder,
      answers: {
        200: form<InvitationOutcome & { text: string }>({ queued: whole, skipped: Joi.object().unknown(), text: said }),
      },
      does: async ({ draft: at, signed, body }) => {
        refuseUnpublished(at.portal);
        const inviting = { portal: at.portal, source: read(at), base: await readAddress(at.portal.id) };
        const taken = await services.store.sequelize.transaction((transaction) =>
          linksAsFile(inviting, body, transaction),
        );
        if (taken.queued > 0)
          await writeAudit(at.portal.id, signed, 'took links out as a file', counted(taken.queued, 'member'));
        return taken;
      },
    }),
    cancelInvitations: endpoint({
      method: 'DELETE',
      path: '/invitations/:job',
      says: 'Cancels what of a job waits still in the outbox.',
      entry: portal,
      params: { job: ownNumber },
      answers: { 200: form<{ cancelled: number }>({ cancelled: whole }) },
      does: async ({ portal: at, params }) => ({ cancelled: await cancelWaiting(at.id, params.job) }),
    }),
    outbox: endpoint({
      method: 'GET',
      path: '/outbox',
      says: 'The mails of a portal, the newest first, each with its state and what the mail server said.',
      entry: draft,
      query: Joi.object<{
        state: OutboxEntry['state'] | null;
        search: string;
        member: number | null;
        before: number | null;
      }>({
        state: Joi.valid(...outboxStates).default(null),
        search: Joi.string().max(200).allow('').default(''),
        member: ownNumber.default(null),
        before: ownNumber.default(null),
      }),
      answers: {
        200: form<MailPage>({
          mails: listOf(form<OutboxEntry>(entryKeys)),
          before: wholeOrNull,
          counts: Joi.object().unknown(),
        }),
      },
      does: async ({ draft: at, query }) => findMails(at.portal.id, query, await callingTo(at, at.portal.id)),
    }),
    mail: endpoint({
      method: 'GET',
      path: '/outbox/:mail',
      says: 'One mail as its reader sees it. Codes and links are blotted out, but in the demo.',
      personal: true,
      entry: portal,
      params: { mail: ownNumber },
      answers: { 200: form<OutboxMailInfo>({ ...entryKeys, text: said, html: said, isOpen: yesNo }) },
      does: async ({ portal: at, params }) => oneMail(outbox, at.id, params.mail, (await readSetting('demo')) !== null),
    }),
    sendAgain: endpoint({
      method: 'POST',
      path: '/outbox/:mail/again',
      says: 'Tries a mail again that was given up, or that nobody knows whether it was sent.',
      entry: portal,
      params: { mail: ownNumber },
      answers: { 204: null },
      does: async ({ portal: at, signed, params }) => {
        const mail = await sendAgain(at.id, params.mail);
        await writeAudit(at.id, signed, 'sent a mail again', `${mail.kind} to ${mail.recipient}`);
        outbox.wake();
      },
    }),
  };
}
