// A table as CSV that a spreadsheet of the page's language opens: where a comma stands before
// decimals, semicolons stand between fields.

// Quoted where it must be; a text that a spreadsheet would run as a formula is kept from it.
function csvField(value: string | number | null, between = ","): string {
  if (value === null) return "";
  const text =
    typeof value === "string" && /^[=+\-@\t\r]/.test(value) ? `'${value}` : String(value);
  return /["\r\n]/.test(text) || text.includes(between) ? `"${text.replace(/"/g, '""')}"` : text;
}

// Numbers are numbers, with the decimal mark of the language.
export function csvText(lines: (string | number | null)[][], decimal: string): string {
  const between = decimal === "," ? ";" : ",";
  const field = (v: string | number | null) =>
    typeof v === "number"
      ? csvField(String(v).replace(".", decimal), between).replace(/^'/, "")
      : csvField(v, between);
  return `\ufeff${lines.map((line) => line.map(field).join(between)).join("\r\n")}\r\n`;
}
