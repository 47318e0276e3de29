/** What holds a delivery, in the order in which it is asked: the words before and after the share, in percent. */
export const STOPS = {
  least_rows: ["fewer than", "% of the usual rows"],
  most_aside: ["more than", "% of the rows would be set aside"],
  rule_fall: ["a quality rule is failed by", "% more of the records than before"],
  most_golden: ["more than", "% of the golden records would change"],
} as const;

export type Stop = keyof typeof STOPS;

export const STOP_NAMES = Object.keys(STOPS) as Stop[];

/** Percent as a person types it, as a share between 0 and 1; null where it is none. */
export function shareOf(percent: string): number | null {
  const typed = percent.trim();
  const number = Number(typed);
  return typed !== "" && number >= 0 && number <= 100 ? number / 100 : null;
}

/** How long a turn took, in words. */
export function tookInWords(started: string | null, ended: string | null): string {
  if (!started || !ended) return "";
  const seconds = Math.max(0, Math.round((Date.parse(ended) - Date.parse(started)) / 1000));
  if (seconds < 90) return `${seconds} s`;
  return seconds < 5400 ? `${Math.round(seconds / 60)} min` : `${(seconds / 3600).toFixed(1)} h`;
}
