import { randomBytes } from 'node:crypto';
import type { Request } from 'express';
import Joi from 'joi';
import { pagesFor } from '../../core/access/audience';
import type { Form } from '../../core/definition/form';
import { mostLines } from '../../core/form/lines';
import type { FormSection } from '../../sections/form/spec';
import { correct, NotFound, viewSql } from '../gate/gate';
import { form as formOf, said, saidOrNull } from '../http/answers';
import { endpoint, type Entry } from '../http/endpoint';
import { once, pressHash, pressId, type NotePress } from '../presses/presses';
import { onceKept } from '../sources/outcome-unknown';
import { sectionFor } from './page-endpoints';
import { text } from '../records/record-question';
import { refuseSeenBy } from '../visits/entries';
import type { PortalVisit } from '../visits/member-visit';
import type { PublicForms } from '../forms/at-the-public-form';
import type { SignedLinks } from '../forms/signed-links';
import { goOn, readReceipt } from '../forms/receipts';
import { correction, formNow, sendForm, type SentWhole } from '../forms/send-form';
import { whySentEnough } from '../forms/sent-enough';
import type { FormTold } from '../forms/form-told';
import { formTold } from '../forms/form-answers';

/** A form that was sent: the record where its sender sees it, what is said, and what lets it be corrected. */
export interface SentAnswer {
  id: string | null;
  says: string | null;
  receipt: string | null;
}

/** A column's name as it may be sent: of a text that is only looked at, so that no schema is asked for each. */
const named = /^[^]{1,64}$/;
const values = Joi.object<Record<string, unknown>>().pattern(named, Joi.any()).max(300).required();
const record = text(1000);
const signed = text(6000);
const lines = Joi.object<Record<string, Record<string, unknown>[]>>()
  .pattern(Joi.string().max(40), Joi.array().items(Joi.object().pattern(named, Joi.any())).max(mostLines))
  .max(20);
/** What a link says that was made for whoever sends the form. */
interface WithLink {
  signed?: string;
}

const sentAnswer = formOf<SentAnswer>({ id: saidOrNull, says: saidOrNull, receipt: saidOrNull });

/** The form of a section of a page that is for the person; NotFound for every other. */
function formAt(visit: PortalVisit, params: { page: string; section: string }): Form {
  const section = sectionFor(visit, params)?.section as FormSection | undefined;
  const found = section?.kind === 'form' ? visit.definition.forms?.find(({ id }) => id === section.form) : undefined;
  if (!found) throw new NotFound('form');
  return found;
}

/** Forms sent, by members, or by whoever comes: then `guard` keeps robots away. In Seen by they are only tried. */
export function formEndpoints(entry: Entry<{ visit: PortalVisit }>, guard: PublicForms, links: SignedLinks) {
  const isPublic = entry.needs === null;
  /** What was sent, with what the link said in place of whatever stands there. */
  const withLink = <T extends SentWhole>(visit: PortalVisit, form: Form, { signed, ...sent }: T & WithLink) => ({
    ...sent,
    values: { ...sent.values, ...links.read(visit.portalId, form, signed, viewSql(visit).context.today) },
  });
  return {
    openedWith: endpoint({
      method: 'GET',
      path: '/pages/:page/:section/form/with/:record',
      says: 'A form as it is when it is opened with a record.',
      entry,
      params: { record: record.required() },
      answers: { 200: formOf<{ form: FormTold }>({ form: formTold }) },
      does: async ({ visit, params }) => {
        const form = formAt(visit, params);
        const leads = new Set(pagesFor(visit).map(({ id }) => id));
        const { told } = await formNow(visit, form, params.record, leads);
        return { form: { ...told, closed: told.closed ?? (await whySentEnough(visit, form)) } };
      },
    }),
    ticket: endpoint({
      method: 'GET',
      path: '/pages/:page/:section/form',
      says: 'A ticket with which a form can be sent that was opened now.',
      entry,
      answers: { 200: formOf<{ ticket: string }>({ ticket: said }) },
      does: ({ visit, params }) =>
        Promise.resolve({ ticket: guard.ticket(visit.portalId, formAt(visit, params).id, visit.moment) }),
    }),
    send: endpoint({
      method: 'POST',
      path: '/pages/:page/:section/form',
      says: 'Sends a form, once however often the same `press` comes.',
      entry,
      // The press bears out what is assumed of visitors; of members it would be more than one question.
      ...(isPublic ? { assumes: true } : {}),
      query: Joi.object<{ trial: boolean }>({ trial: Joi.boolean().default(false) }),
      body: Joi.object<SentWhole & WithLink & { press?: string; ticket: string; further: string }>({
        values,
        signed,
        lines,
        record,
        seen: values.optional(),
        press: pressId,
        ticket: text(200).default(''),
        // No person sees it: it is there for those who fill in whatever there is.
        further: text(2000).default(''),
      }),
      answers: { 200: sentAnswer },
      does: async ({ visit, params, query: { trial }, body, req }): Promise<SentAnswer> => {
        if (!trial) refuseSeenBy(visit);
        const form = formAt(visit, params);
        // Nothing of these is written before what was assumed could be borne out.
        if (trial || form.anonymous) visit.assumed?.refuseOpen();
        const { portalId } = visit;
        const at = { portalId, form: form.id };
        const sender = { address: addressOf(req), trap: body.further, ticket: body.ticket, now: visit.moment };
        if (isPublic && (await guard.refuse(req, at, sender)))
          return { id: null, says: form.says ?? null, receipt: null };
        const press = body.press ?? randomBytes(16).toString('hex');
        const of = ['form', form.id, ...(body.record === undefined ? [] : [body.record])];
        const receipt = guard.receipt(portalId, form.id, pressHash(visit.person, of, press));
        const send = async (note: NotePress = () => undefined) => {
          const { id, says, correctable } = await sendForm(visit, form, withLink(visit, form, body), trial);
          note({ corrects: correctable && { receipt, what: { ...correctable, form: form.id } } });
          return { id, says, corrects: correctable !== null };
        };
        // Of a press that is anonymous nothing is kept but in memory, and so it can't be corrected.
        if (form.anonymous && !trial) {
          const { says } = await guard.onceInMemory(portalId, form.id, press, send);
          return { id: null, says, receipt: null };
        }
        const { corrects, ...sent } = trial ? await send() : await once(visit, of, press, send);
        if (form.anonymous) sent.id = null;
        return { ...sent, receipt: corrects && !trial ? receipt : null };
      },
    }),
    correct: endpoint({
      method: 'PATCH',
      path: '/pages/:page/:section/form',
      says: 'Corrects what was just sent, by the receipt for it.',
      entry,
      body: Joi.object<SentWhole & WithLink & { receipt: string }>({
        receipt: text(200).required(),
        values,
        signed,
        record,
      }),
      answers: { 204: null },
      does: async ({ visit: asking, params, body: { receipt, ...sent } }) => {
        refuseSeenBy(asking);
        const form = formAt(asking, params);
        const held = await readReceipt(asking.portalId, form.id, receipt);
        const { visit, values: whole } = await correction(asking, form, withLink(asking, form, sent));
        const correctable = await correct(visit.source, visit, form.table, held, whole);
        await onceKept(goOn(asking.portalId, form.id, receipt, correctable));
      },
    }),
  };
}

const addressOf = (req: Request): string => req.ip ?? '';
