import { randomBytes } from 'node:crypto';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { decodeJwt, exportJWK, generateKeyPair, SignJWT, type CryptoKey, type JWTPayload } from 'jose';
import type { Configuration } from 'oidc-provider';
import type { Account } from './account';
import { accountsPage } from './accounts-page';

/** How the provider misbehaves, for trying what becomes of it. */
interface ProviderMood {
  /** Changes what it says of somebody. */
  claims?: (claims: JWTPayload) => JWTPayload;
  /** Signs with a key that it does not publish, or not at all. */
  signs?: 'with another key' | 'not at all';
  /** Answers nonsense when asked for tokens, or nothing as it should. */
  talksNonsense?: boolean;
}

export interface StandInProvider {
  issuer: string;
  clientId: string;
  clientSecret: string;
  mood: ProviderMood;
  close(): Promise<void>;
}

export interface ProviderOptions {
  /** May grow while the provider is open. */
  accounts: readonly Account[];
  /** Whether browsers may be sent back to an address. */
  returnsTo: (address: string) => boolean;
  clientSecret?: string;
  port?: number;
}

/**
 * An identity provider on loopback (OpenID Connect, by oidc-provider) that asks for no password: whoever comes chooses
 * who to be.
 */
export async function openProvider({
  accounts,
  returnsTo,
  clientSecret = randomBytes(24).toString('base64url'),
  port = 0,
}: ProviderOptions): Promise<StandInProvider> {
  // Read where one is opened, not at each start.
  const { Provider } = await import('oidc-provider');
  const { privateKey } = await generateKeyPair('RS256', { extractable: true });
  const other = await generateKeyPair('RS256', { extractable: true });
  const key = { ...(await exportJWK(privateKey)), alg: 'RS256', use: 'sig', kid: 'stand-in' };
  const server = createServer();
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen({ port, host: '127.0.0.1' }, () => resolve());
  });
  const issuer = `http://localhost:${(server.address() as AddressInfo).port}`;
  const client = { clientId: 'stone-porch', clientSecret };
  const state: { mood: ProviderMood } = { mood: {} };
  const provider = new Provider(issuer, configuration(accounts, client, key));
  provider.Client.prototype.redirectUriAllowed = returnsTo;
  const answer = provider.callback();
  const handle = async (req: IncomingMessage, res: ServerResponse): Promise<void> => {
    const interaction = /^\/interaction\/[\w-]+$/.test(req.url ?? '');
    if (interaction && req.method === 'GET') {
      res.writeHead(200, { 'content-type': 'text/html; charset=utf-8' });
      res.end(accountsPage(accounts));
      return;
    }
    if (interaction && req.method === 'POST') {
      const accountId = new URLSearchParams(await bodyOf(req)).get('account') ?? '';
      await provider.interactionFinished(req, res, { login: { accountId } });
      return;
    }
    if (req.url?.startsWith('/token')) twist(res, state.mood, privateKey, other.privateKey);
    await answer(req, res);
  };
  server.on('request', (req, res) => {
    handle(req, res).catch(() => {
      if (!res.headersSent) res.writeHead(500);
      res.end();
    });
  });
  return {
    issuer,
    ...client,
    get mood() {
      return state.mood;
    },
    set mood(mood) {
      state.mood = mood;
    },
    close: () => closed(server),
  };
}

function configuration(
  accounts: readonly Account[],
  { clientId, clientSecret }: { clientId: string; clientSecret: string },
  key: object,
): Configuration {
  return {
    clients: [
      {
        client_id: clientId,
        client_secret: clientSecret,
        redirect_uris: ['http://localhost/only-as-a-form'],
        token_endpoint_auth_method: 'client_secret_post',
      },
    ],
    jwks: { keys: [key as never] },
    cookies: { keys: [randomBytes(24).toString('hex')] },
    claims: { openid: ['sub'], email: ['email', 'email_verified'] },
    conformIdTokenClaims: false,
    features: { devInteractions: { enabled: false } },
    interactions: { url: (_ctx, interaction) => `/interaction/${interaction.uid}` },
    ttl: { AccessToken: 600, AuthorizationCode: 60, IdToken: 600, Interaction: 600, Session: 600, Grant: 600 },
    findAccount: (_ctx, id) => {
      const account = accounts.find(({ email }) => email === id);
      return (
        account && {
          accountId: id,
          claims: () => ({ sub: id, email: account.email, email_verified: account.isVerified }),
        }
      );
    },
    // Nobody is asked what the client may know: it may know the address.
    loadExistingGrant: async (ctx) => {
      const grant = new ctx.oidc.provider.Grant({
        clientId: ctx.oidc.client!.clientId,
        accountId: ctx.oidc.session!.accountId!,
      });
      grant.addOIDCScope('openid email');
      await grant.save();
      return grant;
    },
  };
}

/** Changes the answer to a question for tokens on its way out. */
function twist(res: ServerResponse, mood: ProviderMood, key: CryptoKey, otherKey: CryptoKey): void {
  if (!mood.claims && !mood.signs && !mood.talksNonsense) return;
  const end = res.end.bind(res);
  res.end = ((body: unknown) => {
    void twisted(String(body), mood, key, otherKey).then((text) => {
      if (!res.headersSent) res.setHeader('content-length', Buffer.byteLength(text));
      end(text);
    });
    return res;
  }) as ServerResponse['end'];
}

async function twisted(body: string, mood: ProviderMood, key: CryptoKey, otherKey: CryptoKey): Promise<string> {
  if (mood.talksNonsense) return '<html>Nothing to see here';
  const tokens = JSON.parse(body) as { id_token?: string };
  if (!tokens.id_token) return body;
  const said = decodeJwt(tokens.id_token);
  const claims = mood.claims ? mood.claims(said) : said;
  const encoded = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url');
  const id_token =
    mood.signs === 'not at all'
      ? `${encoded({ alg: 'none' })}.${encoded(claims)}.`
      : await new SignJWT(claims)
          .setProtectedHeader({ alg: 'RS256', kid: 'stand-in' })
          .sign(mood.signs === 'with another key' ? otherKey : key);
  return JSON.stringify({ ...tokens, id_token });
}

async function bodyOf(req: IncomingMessage): Promise<string> {
  const pieces: Buffer[] = [];
  for await (const piece of req) pieces.push(piece as Buffer);
  return Buffer.concat(pieces).toString('utf8');
}

function closed(server: Server): Promise<void> {
  server.closeAllConnections();
  return new Promise((resolve) => server.close(() => resolve()));
}
