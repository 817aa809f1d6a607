import { createHash } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, describe, expect, inject, it } from 'vitest';
import * as oidc from 'openid-client';
import { openProvider, type StandInProvider } from '../../standins/identity/provider';
import { bench, ines, MailedPortal, portal } from '../people/mails.fixture';
import { saveAddress } from '../mail/own-address';
import { Ticket } from '../store/people-models';
import { Browser } from './browser.fixture';

let at: MailedPortal;
let provider: StandInProvider;

beforeAll(async () => {
  at = await MailedPortal.open(inject('database'), 'provided');
  const base = at.demo.base.replace('127.0.0.1', 'localhost');
  await saveAddress(base);
  provider = await openProvider({
    accounts: [
      { email: ines, name: 'Ines Brannock', isVerified: true },
      { email: 'mara.lindqvist@example.org', name: 'Mara', isVerified: false },
      { email: 'stranger@example.org', name: 'A stranger', isVerified: true },
      { email: 'newcomer@example.org', name: 'Newcomer', isVerified: true },
      { email: 'unproven@example.org', name: 'Unproven', isVerified: false },
    ],
    returnsTo: (address) => address === `${base}/api${portal}/provider/back`,
  });
  await at.builder.send('PUT', `${bench}/sign-in/provider/secret`, { secret: provider.clientSecret });
  await at.withSignIn({
    methods: ['single sign-on', 'password'],
    provider: { label: 'County account', issuer: provider.issuer, clientId: provider.clientId },
  });
});
afterAll(async () => {
  await at?.close();
  await provider?.close();
});
beforeEach(() => {
  provider.mood = {};
});

const home = () => at.demo.base.replace('127.0.0.1', 'localhost');
const newBrowser = () => new Browser(home(), { api: portal, page: '/p/', saidCookie: 'stone_porch_said' });
const through = async (account: string, browser = newBrowser()) => browser.back(await browser.away(account));

describe('single sign-on', () => {
  it('is tried by a button, which says what is wrong', async () => {
    expect((await at.builder.post(`${bench}/sign-in/provider/try`)).body).toMatchObject({ fine: true });
    const { issuer } = provider;
    await at.draftWith((draft) => void (draft.signIn!.provider!.issuer = `${issuer}/elsewhere`));
    expect((await at.builder.post(`${bench}/sign-in/provider/try`)).body).toMatchObject({
      fine: false,
      answer: expect.stringMatching(/could not be used/),
    });
    await at.draftWith((draft) => void (draft.signIn!.provider!.issuer = issuer));
  });

  it('lets in whom the provider vouches for and the roster knows', async () => {
    expect(await through(ines)).toBe('');
    expect(await through('stranger@example.org')).toMatch(/is not known here/);
  });

  it('lets in whoever has a proven address of a domain that the portal is open to, once it is', async () => {
    const open = async (domain: string) => {
      const changed = await at.draftWith((draft) => {
        draft.roles = [
          ...draft.roles.filter(({ id }) => id !== 'guest'),
          { id: 'guest', name: 'Guest', withoutRow: true },
        ];
        draft.openTo = { domains: [domain], roles: ['guest'] };
      });
      expect([changed.status, (await at.publish()).status]).toEqual([200, 201]);
    };
    await open('elsewhere.example.org');
    expect(await through('newcomer@example.org')).toMatch(/is not known here/);
    await open('example.org');
    expect(await through('newcomer@example.org')).toBe('');
    expect(await through('unproven@example.org')).not.toBe('');
    await at.draftWith((draft) => void delete draft.openTo);
    await at.publish();
    expect(await through('newcomer@example.org')).toMatch(/is not known here/);
  });

  it('sends away with PKCE as RFC 7636 says, and with state and nonce', async () => {
    // Appendix B of RFC 7636.
    expect(await oidc.calculatePKCECodeChallenge('dBjftJeZ4CVP-mB92K27uhbUJU1p1r_wW1gFWFOEjXk')).toBe(
      'E9Melhoa2OwvFrEMTJguCHaoeK1t8URWbuGJSstw-cM',
    );
    const response = await newBrowser().ask(`${home()}/api${portal}/provider`);
    const sent = new URL(response.headers.get('location')!).searchParams;
    const [ticket] = (await Ticket.findAll({ order: [['endsAt', 'DESC']], limit: 1 })) as [Ticket];
    const kept = JSON.parse(ticket.content) as { verifier: string; state: string; nonce: string };
    expect(sent.get('code_challenge')).toBe(createHash('sha256').update(kept.verifier).digest('base64url'));
    expect([sent.get('code_challenge_method'), sent.get('state'), sent.get('nonce')]).toEqual([
      'S256',
      kept.state,
      kept.nonce,
    ]);
  });

  // OpenID Connect Core 3.1.3.7, point by point, and 5.1 for the address.
  it.each([
    ['another issuer', { claims: (c) => ({ ...c, iss: 'https://elsewhere.example' }) }],
    ['another audience', { claims: (c) => ({ ...c, aud: 'another-client' }) }],
    [
      'several audiences, and authorised for another',
      { claims: (c) => ({ ...c, aud: [String(c.aud), 'x'], azp: 'x' }) },
    ],
    ['a token of long ago', { claims: (c) => ({ ...c, exp: 1_000_000 }) }],
    ['a token of the far future', { claims: (c) => ({ ...c, iat: c.iat! + 86_400, nbf: c.iat! + 86_400 }) }],
    ['another nonce', { claims: (c) => ({ ...c, nonce: 'of another sign-in' }) }],
    ['no nonce', { claims: ({ nonce: _nonce, ...c }) => c }],
    ['no subject', { claims: ({ sub: _sub, ...c }) => c }],
    ['an address that is not verified', { claims: (c) => ({ ...c, email_verified: false }) }],
    ['no address', { claims: ({ email: _email, ...c }) => c }],
    ['a verification that is only a word', { claims: (c) => ({ ...c, email_verified: 'true' }) }],
    ['nonsense', { talksNonsense: true }],
  ] as [string, StandInProvider['mood']][])('is refused with %s', async (_what, mood) => {
    provider.mood = mood;
    expect(await through(ines)).toMatch(/could not be used/);
    provider.mood = {};
    expect(await through(ines)).toBe('');
  });

  it('takes no token without a signature, or with one of another key', async () => {
    provider.mood = { signs: 'with another key' };
    expect(await through(ines)).toMatch(/could not be used/);
    provider.mood = { signs: 'not at all' };
    expect(await through(ines)).toMatch(/could not be used/);
  });

  it('is taken once, and from the browser that was sent away', async () => {
    const [mine, other] = [newBrowser(), newBrowser()];
    const back = await mine.away(ines);
    expect(await other.back(back)).toMatch(/begun in another window/);
    expect(await mine.back(back)).toMatch(/begun in another window/);
    const again = await mine.away(ines);
    expect(await mine.back(again)).toBe('');
    await mine.ask(again);
    expect(mine.said()).toMatch(/begun in another window/);
  });

  it('says so when the provider refuses, is unverified, or away', async () => {
    expect(await through('mara.lindqvist@example.org')).toMatch(/does not vouch/);
    const browser = newBrowser();
    const back = new URL(await browser.away(ines));
    const refused = new URL(back.origin + back.pathname);
    refused.search = new URLSearchParams({ error: 'access_denied', state: back.searchParams.get('state')! }).toString();
    expect(await browser.back(refused.href)).toMatch(/could not be used/);
    await provider.close();
    expect(await through(ines)).toMatch(/could not be used/);
  });
});
