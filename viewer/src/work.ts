// Long work in pieces, so that the page answers the reader in between: a generator that stops
// wherever it may be left for a while.

export type Work<T> = Generator<undefined, T>;

const PIECE = 6; // milliseconds

// All of it now.
export function atOnce<T>(work: Work<T>): T {
  for (;;) {
    const { done, value } = work.next();
    if (done) return value;
  }
}

// A piece at a time; never ends when `life` has.
export function inPieces<T>(work: Work<T>, life: AbortSignal): Promise<T> {
  return new Promise((done, fail) => {
    const piece = (): void => {
      if (life.aborted) return;
      try {
        const end = performance.now() + PIECE;
        do {
          const step = work.next();
          if (step.done) return done(step.value);
        } while (performance.now() < end);
      } catch (e) {
        return fail(e as Error);
      }
      later(piece);
    };
    later(piece);
  });
}

// After what the browser has to do: a message comes sooner than a timer.
export function later(act: () => void): void {
  const { port1, port2 } = new MessageChannel();
  port1.onmessage = () => {
    port1.close();
    act();
  };
  port2.postMessage(null);
}

// What is made when it is first asked for, or before in pieces.
export class Made<T extends object> {
  private value: T | null = null;
  constructor(private readonly make: () => Work<T>) {}

  get(): T {
    return (this.value ??= atOnce(this.make()));
  }
  *steps(): Work<T> {
    return (this.value ??= yield* this.make());
  }
}
