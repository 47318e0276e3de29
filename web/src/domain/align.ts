/** A stretch of a value: in common with the other side, or only here. */
export interface Stretch {
  text: string;
  common: boolean;
}

const LONGEST = 300;

function commonLengths(left: readonly string[], right: readonly string[]): Uint16Array[] {
  const rows = Array.from({ length: left.length + 1 }, () => new Uint16Array(right.length + 1));
  for (let i = left.length - 1; i >= 0; i--) {
    const row = rows[i] as Uint16Array;
    const below = rows[i + 1] as Uint16Array;
    for (let j = right.length - 1; j >= 0; j--) {
      row[j] = left[i] === right[j] ? (below[j + 1] as number) + 1 : Math.max(below[j] as number, row[j + 1] as number);
    }
  }
  return rows;
}

function push(stretches: Stretch[], text: string, common: boolean) {
  const last = stretches.at(-1);
  if (last && last.common === common) last.text += text;
  else stretches.push({ text, common });
}

const letters = (stretches: readonly Stretch[], common: boolean) =>
  stretches.reduce((sum, stretch) => sum + (stretch.common === common ? stretch.text.length : 0), 0);

/** Letters in common that are few and far between only flicker; then the whole value counts as different. */
const LEAST_COMMON = 0.5;
/** A stretch in common this short inside a difference belongs to the difference. */
const SHORTEST_COMMON = 2;

function calm(stretches: Stretch[]): Stretch[] {
  const calmed: Stretch[] = [];
  stretches.forEach((stretch, place) => {
    const inside = place > 0 && place < stretches.length - 1;
    push(calmed, stretch.text, stretch.common && !(inside && stretch.text.trim().length < SHORTEST_COMMON));
  });
  return calmed;
}

/**
 * Align two values letter by letter along their longest common subsequence, case and accents aside.
 * The texts of each side's stretches, put together, give the value back.
 */
export function align(left: string, right: string): [Stretch[], Stretch[]] {
  const a = [...left].slice(0, LONGEST);
  const b = [...right].slice(0, LONGEST);
  const plain = (letter: string) => letter.normalize("NFD").charAt(0).toLowerCase();
  const plainA = a.map(plain);
  const plainB = b.map(plain);
  const lengths = commonLengths(plainA, plainB);
  const one: Stretch[] = [];
  const other: Stretch[] = [];
  let i = 0;
  let j = 0;
  while (i < a.length || j < b.length) {
    if (i < a.length && j < b.length && plainA[i] === plainB[j]) {
      push(one, a[i++] as string, true);
      push(other, b[j++] as string, true);
    } else if (j >= b.length || (i < a.length && (lengths[i + 1]?.[j] ?? 0) >= (lengths[i]?.[j + 1] ?? 0))) {
      push(one, a[i++] as string, false);
    } else {
      push(other, b[j++] as string, false);
    }
  }
  const restA = [...left].slice(LONGEST).join("");
  const restB = [...right].slice(LONGEST).join("");
  if (restA) push(one, restA, restA === restB);
  if (restB) push(other, restB, restA === restB);
  const alike = Math.min(letters(one, true), letters(other, true)) >= LEAST_COMMON * Math.min(a.length, b.length);
  const all = (text: string): Stretch[] => (text ? [{ text, common: false }] : []);
  return alike ? [calm(one), calm(other)] : [all(left), all(right)];
}
