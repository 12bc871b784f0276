import { connect, createServer, type Server, type Socket } from 'node:net';

export const freePort = (): Promise<number> =>
  new Promise((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });

/** A line to something that answers, which can be cut and mended. */
export class Line {
  readonly #sockets = new Set<Socket>();
  readonly #breaks: { readonly way: 'there' | 'back'; readonly bytes: number }[] = [];
  #server: Server | undefined;
  /** How often it broke by itself. */
  broken = 0;

  constructor(
    private readonly targetPort: number,
    readonly port: number,
    private readonly targetHost = '127.0.0.1',
  ) {}

  async mend(): Promise<void> {
    this.#server = createServer((near) => {
      const far = connect(this.targetPort, this.targetHost);
      for (const socket of [near, far]) {
        this.#sockets.add(socket);
        socket.on('error', () => undefined).on('close', () => (this.#sockets.delete(socket), near.destroy(), far.destroy()));
      }
      this.#watch(near, 'there', near);
      this.#watch(far, 'back', near);
      near.pipe(far).pipe(near);
    });
    await new Promise<void>((resolve) => this.#server!.listen(this.port, '127.0.0.1', resolve));
  }

  async cut(): Promise<void> {
    const closed = new Promise((resolve) => this.#server?.close(resolve));
    for (const socket of this.#sockets) socket.destroy();
    await closed;
  }

  /** A connection breaks once when so many bytes have come over it in one direction; asked several times, so many connections. */
  breakAfter(way: 'there' | 'back', bytes: number): void {
    this.#breaks.push({ way, bytes });
  }

  #watch(from: Socket, way: 'there' | 'back', near: Socket): void {
    let came = 0;
    from.on('data', (part) => {
      came += part.length;
      const next = this.#breaks.findIndex((one) => one.way === way && came >= one.bytes);
      if (next < 0) return;
      this.#breaks.splice(next, 1);
      this.broken++;
      near.destroy();
    });
  }
}
