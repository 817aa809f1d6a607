import type { IncomingMessage, RequestListener, ServerResponse } from 'node:http';

/**
 * How a server stops: what is in hand is answered, on connections that end with it; what comes after is told to go
 * elsewhere.
 */
export class Stopping {
  private readonly inHand = new Set<ServerResponse>();
  private begun = false;
  private whenAnswered: (() => void) | null = null;

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
      res.once('close', () => {
        this.inHand.delete(res);
        if (this.inHand.size === 0) this.whenAnswered?.();
      });
      app(req, res);
    };
  }

  get hasBegun(): boolean {
    return this.begun;
  }

  begin(): void {
    this.begun = true;
    for (const res of this.inHand) if (!res.headersSent) res.setHeader('Connection', 'close');
  }

  /** Resolves when all that is in hand is answered, or broken off. */
  answered(): Promise<void> {
    return new Promise((resolve) => {
      this.whenAnswered = resolve;
      if (this.inHand.size === 0) resolve();
    });
  }
}
