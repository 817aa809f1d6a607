import { expect } from 'vitest';

/** A browser that follows where it is sent, with its cookies. */
export class Browser {
  private readonly cookies = new Map<string, Map<string, string>>();

  /** `home` is the origin; `api` and `page` are where the door and its pages stand. */
  constructor(
    private readonly home: string,
    private readonly door: { api: string; page: string; saidCookie: string },
  ) {}

  async ask(url: string, init: RequestInit = {}): Promise<Response> {
    const { origin } = new URL(url);
    const own = this.cookies.get(origin) ?? new Map<string, string>();
    this.cookies.set(origin, own);
    const cookie = [...own].map((pair) => pair.join('=')).join('; ');
    const response = await fetch(url, { ...init, redirect: 'manual', headers: { cookie, ...init.headers } });
    for (const line of response.headers.getSetCookie()) {
      const [name, value] = line.split(';')[0]!.split(/=(.*)/s) as [string, string];
      if (/expires=Thu, 01 Jan 1970/i.test(line)) own.delete(name);
      else own.set(name, value);
    }
    return response;
  }

  /** Follows until it is neither the provider nor a redirect any more, or before it would come back to the portal. */
  async away(account: string): Promise<string> {
    let url = new URL(`/api${this.door.api}/provider`, this.home).href;
    for (let hops = 0; hops < 12; hops++) {
      if (url.includes('/provider/back')) return url;
      const isChoice = url.includes('/interaction/');
      const response = await this.ask(
        url,
        isChoice
          ? {
              method: 'POST',
              body: new URLSearchParams({ account }),
              headers: { 'content-type': 'application/x-www-form-urlencoded' },
            }
          : {},
      );
      const to = response.headers.get('location');
      if (!to) throw new Error(`${response.status} at ${url}: ${await response.text()}`);
      url = new URL(to, url).href;
      if (this.isPage(url)) return url;
    }
    throw new Error('sent round and round');
  }

  private isPage = (url: string): boolean => url.startsWith(this.home + this.door.page) && !url.includes('/api/');

  /** What the page of the sign-in would say, once. */
  said(): string | null {
    const own = this.cookies.get(this.home);
    const words = own?.get(this.door.saidCookie);
    own?.delete(this.door.saidCookie);
    return words === undefined ? null : decodeURIComponent(words);
  }

  /** Comes back; gives what the portal then says, or '' when they are in. */
  async back(url: string): Promise<string> {
    const to = this.isPage(url) ? url : (await this.ask(url)).headers.get('location')!;
    const said = this.said();
    const me = await this.ask(`${this.home}/api${this.door.api}/me`);
    expect([to, said === null]).toEqual([to, me.status === 200]);
    return said ?? '';
  }
}
