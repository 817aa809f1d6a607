import type { PortalDefinition } from '../definition/definition';
import { signInRules } from '../sign-in/sign-in-rules';
import { counted } from '../text/counted';
import type { Finding, Place } from './finding';

/** What is set of signing in beside the draft. */
export interface WayInFacts {
  hasMailServer: boolean;
  hasProviderSecret: boolean;
  /** Members who are not shut out, and those of them without a password. */
  members: number;
  withoutPassword: number;
}

/** Ways of signing in that are on and lead nobody in: the portal is not left without one silently. */
export function findWaysIn(definition: PortalDefinition, facts: WayInFacts): Finding[] {
  const { methods, secondFactor = [] } = signInRules(definition);
  const place: Place = { stage: 'people', screen: '~signing-in' };
  const finding = (id: string, title: string, why: string): Finding => ({
    id: `way-in/${id}`,
    kind: 'no way in',
    severity: 'broken',
    place,
    title,
    why,
  });
  const others = methods.filter((method) => method !== 'password' && method !== 'passkey');
  const works = others.filter((method) => (method === 'code' ? facts.hasMailServer : facts.hasProviderSecret));
  const found: Finding[] = [];
  if (methods.includes('code') && !facts.hasMailServer)
    found.push(
      finding(
        'code',
        "Nobody gets a code: no mail server is set, so members can't sign in by one",
        'Set the mail server under People, Outbox, or take codes off.',
      ),
    );
  if (methods.includes('single sign-on') && !facts.hasProviderSecret)
    found.push(
      finding(
        'provider',
        "Single sign-on leads nowhere: the identity provider's secret is not set",
        'Set it under People, Signing in, and try the provider there; or take single sign-on off.',
      ),
    );
  if (methods.includes('password') && works.length === 0 && !facts.hasMailServer && facts.withoutPassword > 0)
    found.push(
      finding(
        'password',
        `${counted(facts.withoutPassword, 'member has', 'members have', 'en')} no password and no way to choose one`,
        'Links to choose one go by e-mail, and no mail server is set. Set it under People, Outbox, or set passwords ' +
          'one by one.',
      ),
    );
  const provesByMail =
    (definition.signUps ?? []).length > 0 || (definition.openTo !== undefined && !methods.includes('single sign-on'));
  if (provesByMail && !facts.hasMailServer)
    found.push(
      finding(
        'sign-up',
        'Nobody new comes in: no mail server is set, so nobody proves their address',
        'Set it under People, Outbox, or remove the sign-ups and open domains.',
      ),
    );
  const gone = secondFactor.filter((id) => !definition.roles.some((role) => role.id === id));
  if (gone.length > 0)
    found.push(
      finding(
        'second-factor',
        'A second factor is asked of a role that is not there any more',
        'Nobody has that role, so nobody is asked. Choose the roles again under People, Signing in.',
      ),
    );
  return found;
}
