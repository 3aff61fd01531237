// Whole numbers from packed text, as src/core/packed-numbers.hpp says.

export class PackedReader {
  private at = 0;
  constructor(private readonly text: string) {}

  get done(): boolean {
    return this.at >= this.text.length;
  }

  next(): number {
    let value = 0;
    let times = 1;
    for (;;) {
      const code = this.text.charCodeAt(this.at++);
      if (Number.isNaN(code))
        throw new RangeError("A packed text ends too early. Publish the map again.");
      const digit = code - 35 - (code > 60 ? 1 : 0) - (code > 92 ? 1 : 0);
      if (digit < 60) return value + times * digit;
      value += times * (digit - 60);
      times *= 30;
    }
  }

  signed(): number {
    return signOf(this.next());
  }
}

// 0, 1, 2, 3, … are 0, -1, 1, -2, …
export const signOf = (v: number): number => (v % 2 ? -(v + 1) / 2 : v / 2);
