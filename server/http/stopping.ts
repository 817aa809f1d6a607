import type { IncomingMessage, RequestListener, ServerResponse } from 'node:http';

/**
 * How a server stops: what is in hand is answered, on connections that end with it; what comes after is told to go
 * elsewhere.
 */
export class Stopping {
  private readonly inHand = new Set<ServerResponse>();
  private begun = false;

  /** The application, watched. */
  around(app: RequestListener): RequestListener {
    return (req: IncomingMessage, res: ServerResponse) => {
      if (this.begun) {
        res.writeHead(503, { Connection: 'close', 'Retry-After': '5', 'Content-Type': 'application/problem+json' });
        res.end(
          JSON.stringify({
            type: 'urn:stone-porch:problem:stopping',
            title: 'Not available',
            status: 503,
            detail: 'The server is being stopped. Nothing was changed. Try again in a few seconds.',
          }),
        );
        return;
      }
      this.inHand.add(res);
      res.once('close', () => this.inHand.delete(res));
      app(req, res);
    };
  }

  begin(): void {
    this.begun = true;
    for (const res of this.inHand) if (!res.headersSent) res.setHeader('Connection', 'close');
  }
}
