import Joi from 'joi';
import { askedOf } from '../../core/people/sign-ups';
import { columnLabel, type PortalDefinition } from '../../core/definition/definition';
import type { SignUp } from '../../core/definition/sign-up';
import { mayStayEmpty } from '../../core/form/field-rules';
import { rosterEmail } from '../../core/people/roster-email';
import { findColumn, findTable, plainLabel, type Catalogue } from '../../core/table/catalogue';
import { isOfDomains, normaliseEmail } from '../../core/text/email';
import { columnInfo } from '../columns/column-answers';
import type { ColumnInfo } from '../columns/column-info';
import { InvalidValues, NotFound } from '../gate/gate';
import { form, listOf, said, saidOrNull, yesNo } from '../http/answers';
import { anybody, endpoint } from '../http/endpoint';
import { AtDoor, type SignInServices } from '../sign-in/at-door';
import { evenly } from '../sign-in/even-steps';
import { publishedPortal } from '../sign-in/portal-doorway';
import type { SignUpLinks } from './sign-up-link';
import type { Proven, SignUps } from './sign-ups';

/** What a link asks of whoever opens it. */
export interface SignUpInfo {
  name: string;
  asks: ColumnInfo[];
  /** Only addresses of these. */
  domains: string[] | null;
  /** Whether somebody must agree. */
  waits: boolean;
}

const typeAddress = 'Type an e-mail address, like name@example.org.';
const token = Joi.string().max(100).required();

/** A column to be filled in by somebody who sees nothing: no relation is looked up, nothing is filtered. */
function askedInfo(definition: PortalDefinition, catalogue: Catalogue, table: string, name: string): ColumnInfo {
  const column = findColumn(findTable(catalogue, table)!, name)!;
  const { type, nullable, maxLength, scale, choices, kind } = column;
  const notes = definition.tables[table]?.columns?.[name];
  return {
    path: name,
    label: columnLabel(definition, table, name, plainLabel),
    type,
    nullable,
    ...(mayStayEmpty(column, definition.tables[table]?.rules ?? []) ? { mayStayEmpty: true as const } : {}),
    ...(maxLength === undefined ? {} : { maxLength }),
    ...(scale === undefined ? {} : { scale }),
    ...(choices === undefined ? {} : { choices }),
    ...(kind === undefined ? {} : { kind }),
    ...(notes?.labels ? { labels: notes.labels } : {}),
    asked: null,
    sortable: false,
    veiled: false,
  };
}

/** Ways in for those who are new: by a link, once they have proven their address. */
export function signUpEndpoints(services: SignInServices & { signUps: SignUps; signUpLinks: SignUpLinks }) {
  const door = new AtDoor(services);
  const { signUps, signUpLinks } = services;
  /** The sign-up of a link; the same is said of a link that never was. */
  const linked = async (slug: string, given: string) => {
    const { portal } = await publishedPortal(services, slug);
    const published = await signUps.published(portal);
    const signUp = signUpLinks.find(portal.id, published.definition, given);
    if (!signUp || !published.definition.rosters.some(({ table }) => table === signUp.roster))
      throw new NotFound('link');
    await signUps.refuseOver(published, signUp);
    return { published, signUp };
  };
  const asks = (published: Awaited<ReturnType<SignUps['published']>>, signUp: SignUp): ColumnInfo[] =>
    askedOf(published.definition, published.catalogue, signUp).map((name) =>
      askedInfo(published.definition, published.catalogue, signUp.roster, name),
    );
  return {
    lookAtSignUp: endpoint({
      method: 'POST',
      path: '/:slug/sign-up/look',
      says: 'What a link to come in asks of whoever is new.',
      entry: anybody,
      body: Joi.object<{ token: string }>({ token }),
      answers: {
        200: form<SignUpInfo>({
          name: said,
          asks: listOf(columnInfo),
          domains: listOf(said).allow(null),
          waits: yesNo,
        }),
      },
      does: async ({ params: { slug }, body, req }) => {
        const right = await door.countedFrom(`a sign-up of ${slug}`, req);
        const { published, signUp } = await linked(slug, body.token);
        await right();
        return {
          name: signUp.name,
          asks: asks(published, signUp),
          domains: signUp.domains ?? null,
          waits: signUp.approver !== undefined,
        };
      },
    }),
    signUp: endpoint({
      method: 'POST',
      path: '/:slug/sign-up',
      says: 'Asks to come in. The answer is the same for every address; a mail goes to it.',
      entry: anybody,
      body: Joi.object<{ token: string; email: string; values: Record<string, unknown> }>({
        token,
        email: Joi.string().max(254).allow('').required(),
        values: Joi.object().pattern(Joi.string().max(64), Joi.any()).max(100).required(),
      }),
      answers: { 202: null },
      does: ({ params: { slug }, body, req }) =>
        evenly(async () => {
          const { published, signUp } = await linked(slug, body.token);
          const written = rosterEmail(body.email);
          if ('fault' in written) throw new InvalidValues({ email: typeAddress });
          if (!isOfDomains(written.email, signUp.domains))
            throw new InvalidValues({ email: `Only addresses of ${signUp.domains!.join(', ')} come in by this link.` });
          await door.counted(`sign-up for ${slug}\n${normaliseEmail(body.email)}`, req);
          await signUps.note(published, signUp, written.email, body.values);
        }),
    }),
    comeByDomain: endpoint({
      method: 'POST',
      path: '/:slug/open',
      says: 'Asks to come in where the portal is open to a domain. The answer is the same for each of its addresses.',
      entry: anybody,
      body: Joi.object<{ email: string }>({ email: Joi.string().max(254).allow('').required() }),
      answers: { 202: null },
      does: ({ params: { slug }, body, req }) =>
        evenly(async () => {
          const { portal, definition } = await publishedPortal(services, slug);
          const domains = definition.openTo?.domains;
          if (!domains) throw new NotFound('way in');
          const written = rosterEmail(body.email);
          if ('fault' in written) throw new InvalidValues({ email: typeAddress });
          if (!isOfDomains(written.email, domains))
            throw new InvalidValues({ email: `Only addresses of ${domains.join(', ')} come in this way.` });
          await door.counted(`sign-up for ${slug}\n${normaliseEmail(body.email)}`, req);
          await signUps.noteByDomain(await signUps.published(portal), written.email);
        }),
    }),
    proveSignUp: endpoint({
      method: 'POST',
      path: '/:slug/sign-up/prove',
      says: 'Proves the address of a request, by the link of its mail, once.',
      entry: anybody,
      body: Joi.object<{ token: string }>({ token }),
      answers: { 200: form<Proven>({ waits: yesNo, token: saidOrNull }) },
      does: async ({ params: { slug }, body, req }) => {
        const right = await door.countedFrom(`a sign-up of ${slug}`, req);
        const { portal } = await publishedPortal(services, slug);
        const proven = await signUps.prove(portal, body.token);
        await right();
        return proven;
      },
    }),
  };
}
