import { createServer, type Server } from 'node:http';
import { createServer as createPlainServer, type AddressInfo, type Server as PlainServer, type Socket } from 'node:net';
import { Advice } from '../core/refusals/advice';
import { backlog } from '../server/server';

interface At {
  port: number;
  host: string;
}

/** Holds the port from the beginning; whoever comes before all is ready is told to wait. */
export async function takePort(at: At): Promise<Server> {
  const door = waiting();
  await listen(door, at);
  return door;
}

/** A port whose connections are handed on as they come, unread. */
export interface Gateway {
  port: number;
  /** From now on each goes to whoever this finds; where nobody is found, it is told to wait. */
  handOn(to: (socket: Socket) => boolean): void;
  close(): void;
}

/** Holds the port as `takePort` does, for others who answer. */
export async function takeConnections(at: At): Promise<Gateway> {
  const wait = waiting();
  let handOn = (_socket: Socket): boolean => false;
  const door = createPlainServer({ pauseOnConnect: true, allowHalfOpen: true, noDelay: true }, (socket) => {
    // One that breaks off on its way is nobody's fault.
    socket.on('error', () => socket.destroy());
    if (handOn(socket)) return;
    wait.emit('connection', socket);
    socket.resume();
  });
  await listen(door, at);
  return {
    port: (door.address() as AddressInfo).port,
    handOn: (to) => (handOn = to),
    close: () => void door.close(),
  };
}

const waiting = (): Server =>
  createServer((_req, res) =>
    res
      .writeHead(503, { 'Retry-After': '5', 'Content-Type': 'text/plain; charset=utf-8', Connection: 'close' })
      .end('Stone Porch is being started. Try again in a few seconds.\n'),
  );

function listen(door: PlainServer, { port, host }: At): Promise<void> {
  return new Promise((resolve, reject) => {
    door.once('error', (error: { code?: string }) => {
      if (error.code === 'EADDRINUSE')
        reject(new Advice(`Port ${port} is taken by another program. Choose another: npm start -- --port ${port + 1}`));
      else if (error.code === 'EACCES')
        reject(new Advice(`You may not serve on port ${port}. Choose one above 1023: npm start -- --port 4173`));
      else if (error.code === 'EADDRNOTAVAIL')
        reject(
          new Advice(`${host} is no address of this machine. Leave --host away, or give 0.0.0.0 for all of them.`),
        );
      else reject(error as Error);
    });
    door.listen({ port, host, backlog }, () => resolve());
  });
}
