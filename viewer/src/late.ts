// Fields of a part that are made when they are first asked for.

// Texts before they are made: how many they are, and whether one is missing.
export interface Texts {
  length: number;
  missing: boolean;
}

interface Source {
  get: (k: number) => unknown;
  texts: (k: number) => Texts | undefined;
}

const waiting = new WeakMap<() => unknown, () => Texts | undefined>();

// The field will hold what the source gives.
export function putLate(part: object, field: string, source: Source, k: number): void {
  const get = () => source.get(k);
  waiting.set(get, () => source.texts(k));
  Object.defineProperty(part, field, {
    configurable: true,
    enumerable: true,
    get,
    set: (other: unknown) => Object.defineProperty(part, field, { value: other, writable: true }),
  });
}

// The texts that a field will hold, where they are not made yet.
export function textsOf(part: object, field: string | number): Texts | undefined {
  const get = Object.getOwnPropertyDescriptor(part, field)?.get as (() => unknown) | undefined;
  return get && waiting.get(get)?.();
}
