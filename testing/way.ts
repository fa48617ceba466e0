import net from "node:net";

/** A way to the warehouse that can fall silent: connections stay, and nothing goes through them any more. */
export class Way {
  private readonly sockets = new Set<net.Socket>();
  private silent = false;
  private readonly server = net.createServer((near) => {
    const far = net.connect(this.port, "127.0.0.1");
    for (const [from, to] of [
      [near, far],
      [far, near],
    ] as const) {
      this.sockets.add(from);
      from.on("data", (piece) => {
        if (!this.silent) to.write(piece);
      });
      from.on("error", () => undefined);
      from.on("close", () => to.destroy());
    }
  });

  constructor(private readonly port: number) {}

  async open(): Promise<number> {
    await new Promise<void>((resolve) => this.server.listen(0, "127.0.0.1", resolve));
    return (this.server.address() as net.AddressInfo).port;
  }

  fallSilent(): void {
    this.silent = true;
  }

  /** What went into nothing is lost: connections from before are of no use. */
  speak(): void {
    this.silent = false;
    for (const socket of this.sockets) socket.destroy();
    this.sockets.clear();
  }

  close(): void {
    this.speak();
    this.server.close();
  }
}
