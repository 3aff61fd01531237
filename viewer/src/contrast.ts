// How well two colours are told apart (WCAG 2.2, relative luminance).
const GRAPHICS = 3; // what the standard asks of graphics (1.4.11)

function luminance(colour: string): number {
  const part = (at: number): number => {
    const v = parseInt(colour.slice(at, at + 2), 16) / 255;
    return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
  };
  return 0.2126 * part(1) + 0.7152 * part(3) + 0.0722 * part(5);
}

// Colours are #RRGGBB.
export function areApart(a: string, b: string): boolean {
  const [x, y] = [luminance(a), luminance(b)];
  return (Math.max(x, y) + 0.05) / (Math.min(x, y) + 0.05) >= GRAPHICS;
}
