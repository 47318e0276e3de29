export interface Decided {
  actor: string;
  day: string;
  same: number;
  different: number;
  later: number;
}

export interface OfDay {
  day: string;
  same: number;
  different: number;
  later: number;
  total: number;
}

/** The sums of the last `span` days up to `today`, oldest first; a day on which nobody decided is one of zeros. */
export function byDay(decided: readonly Decided[], span: number, today = new Date()): OfDay[] {
  return Array.from({ length: span }, (_, place) => {
    const date = new Date(today);
    date.setDate(date.getDate() - (span - 1 - place));
    const two = (number: number) => String(number).padStart(2, "0");
    const day = `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`;
    const of = decided.filter((one) => one.day === day);
    const sum = (name: "same" | "different" | "later") => of.reduce((total, one) => total + one[name], 0);
    const [same, different, later] = [sum("same"), sum("different"), sum("later")];
    return { day, same, different, later, total: same + different + later };
  });
}
