/** Counts turns of the event loop: one or two while a computation holds the thread, many while it does not. */
export class TurnCounter {
  private turns = 0;
  private stopped = false;

  constructor() {
    setTimeout(this.turn, 1);
  }

  private readonly turn = (): void => {
    this.turns += 1;
    if (!this.stopped) setTimeout(this.turn, 1);
  };

  /** Ends the counting and returns how many turns there were. */
  stop(): number {
    this.stopped = true;
    return this.turns;
  }
}
