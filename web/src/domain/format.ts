/** Whole numbers with thin, unbreakable spaces between thousands: 12 345. */
export function count(value: number): string {
  return String(Math.trunc(value)).replace(/\B(?=(\d{3})+(?!\d))/g, "\u202f");
}

/** "1 record", "2 records". */
export function counted(value: number, noun: string, plural = `${noun}s`): string {
  return `${count(value)} ${value === 1 ? noun : plural}`;
}

/** Bits with sign and one decimal: +7.2, −5.0, 0.0; a true minus sign, so that columns line up. */
export function bits(value: number): string {
  const rounded = Math.round(value * 10) / 10;
  const sign = rounded > 0 ? "+" : rounded < 0 ? "−" : "";
  return sign + Math.abs(rounded).toFixed(1);
}

/** A share in whole per cent; what is neither none nor all never shows as 0 or 100. */
export function share(part: number, whole: number): string {
  if (whole === 0) return "–";
  const percent = (100 * part) / whole;
  const rounded = part > 0 && percent < 1 ? "<1" : part < whole && percent > 99 ? ">99" : Math.round(percent);
  return `${rounded} %`;
}

/** A stretch of time in round figures: "20 s", "3 min". */
export function duration(seconds: number): string {
  return seconds < 90 ? `${Math.max(1, Math.round(seconds))} s` : `${Math.round(seconds / 60)} min`;
}

/** Local date and time, ISO order: 2026-11-23 14:05. */
export function moment(iso: string): string {
  const at = new Date(iso);
  const two = (value: number) => String(value).padStart(2, "0");
  return `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())} ${two(at.getHours())}:${two(at.getMinutes())}`;
}

/** A person's or organisation's name out of a record's fields. */
export function nameOf(fields: Record<string, string>): string {
  return fields.name ?? [fields["name.given"], fields["name.family"]].filter(Boolean).join(" ");
}
