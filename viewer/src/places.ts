// Places from a service that the publisher names (the protocol is in vignettes/page.Rmd). Its
// answer is not trusted: what has no name or no position is left out.

export interface Place {
  name: string;
  context: string | null;
  lon: number;
  lat: number;
  box: [number, number, number, number] | null;
}

const PATIENCE = 8000; // milliseconds
const MOST = 8;
const LETTERS = 200;

export function placeAddress(service: string, text: string, locale: string): string {
  const url = new URL(service);
  url.searchParams.set("q", text.slice(0, LETTERS));
  url.searchParams.set("lang", locale);
  url.searchParams.set("limit", String(MOST));
  return url.href;
}

export async function findPlaces(service: string, text: string, locale: string): Promise<Place[]> {
  const stop = new AbortController();
  const timer = setTimeout(() => stop.abort(), PATIENCE);
  try {
    const answer = await fetch(placeAddress(service, text, locale), {
      signal: stop.signal,
      credentials: "omit",
      referrerPolicy: "no-referrer",
    });
    if (!answer.ok) throw new Error(`the service answers ${answer.status}`);
    return readPlaces(await answer.json());
  } finally {
    clearTimeout(timer);
  }
}

export function readPlaces(answer: unknown): Place[] {
  const places = (answer as { places?: unknown } | null)?.places;
  if (!Array.isArray(places)) throw new Error("the answer has no places");
  return places
    .flatMap((p: Record<string, unknown> | null): Place[] => {
      const text = (v: unknown) =>
        typeof v === "string" && v.trim() ? v.trim().slice(0, LETTERS) : null;
      const degrees = (v: unknown, most: number): v is number =>
        typeof v === "number" && Math.abs(v) <= most;
      const name = text(p?.name);
      if (!p || !name || !degrees(p.lon, 180) || !degrees(p.lat, 90)) return [];
      const box =
        Array.isArray(p.box) &&
        p.box.length === 4 &&
        p.box.every((v, i) => degrees(v, i % 2 ? 90 : 180))
          ? (p.box as Place["box"])
          : null;
      return [{ name, context: text(p.context), lon: p.lon, lat: p.lat, box }];
    })
    .slice(0, MOST);
}
