export interface EvidenceItem {
  label: string;
  bits: number;
  sentence: string;
}

export interface Segment extends EvidenceItem {
  from: number;
  to: number;
}

/** Evidence laid end to end from zero: what speaks for the pair to the right, what speaks against it to the left. */
export function lanes(evidence: readonly EvidenceItem[]): { pro: Segment[]; contra: Segment[] } {
  const pro: Segment[] = [];
  const contra: Segment[] = [];
  const strongestFirst = [...evidence].sort((a, b) => Math.abs(b.bits) - Math.abs(a.bits));
  for (const { label, bits, sentence } of strongestFirst) {
    if (bits === 0) continue;
    const lane = bits > 0 ? pro : contra;
    const from = lane.at(-1)?.to ?? 0;
    lane.push({ label, bits, sentence, from, to: from + bits });
  }
  return { pro, contra };
}

/** A probability in words: "45 %", but never a certain 0 % or 100 %. */
export function likelihood(probability: number): string {
  const percent = 100 * probability;
  if (percent > 99.9) return "over 99.9 %";
  if (percent < 0.1) return "under 0.1 %";
  return `${percent > 99 || percent < 1 ? percent.toFixed(1) : Math.round(percent)} %`;
}

/** How many stitches hold a seam: one for every two bits, at most six; none where the evidence is against. */
export function stitches(bits: number): number {
  return bits <= 0 ? 0 : Math.min(6, Math.max(1, Math.round(bits / 2)));
}

/** How far a seam gapes, 0 to 1: fully open from eight bits against. */
export function gape(bits: number): number {
  return bits >= 0 ? 0 : Math.min(1, -bits / 8);
}
