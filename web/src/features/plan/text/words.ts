import type { CompletionContext, CompletionResult } from "@codemirror/autocomplete";
import type { EditorState } from "@codemirror/state";
import type { Words } from "../draft/queries";

/** The parts of a plan with what each is for: completed at the beginning of a line, told where the pointer rests. */
const PARTS: Record<string, string> = {
  title: "What the plan is called.",
  kind: "organisation or person.",
  limits: "From `same` bits on a pair is the same; from `unsure` on a person decides.",
  same: "From so many bits on a pair is the same.",
  unsure: "From so many bits on a pair is in doubt; below it is different.",
  probabilities: "How a score becomes log2 odds before pairs are decided: slope × bits + shift.",
  blocking: "Only records that share a blocking key are compared.",
  most_records: "Blocks over so many records are narrowed by the further keys.",
  every_pair_up_to: "Where all records make no more pairs than this, every pair is compared.",
  scope: "Which records meet: of all sources, across sources, within sources; and more, see the docs.",
  keys: "Blocking keys: tidy fields joined by +, each with a part of it behind |.",
  narrow_by: "Further keys by which large blocks are narrowed.",
  comparisons: "How fields are compared.",
  field: "The tidy field that is compared.",
  using: "The way of comparing.",
  label: "What the field is called in sentences.",
  called: "A name of its own, where a field is compared twice.",
  options: "Options of the way of comparing.",
  bits: "Evidence of a level set by hand, in bits.",
  learned: "Bits that decided pairs taught, added to the evidence of a level.",
  strength: "How much of the information in an agreeing value counts, 0 to 2.",
  among_same: "How often two records of one entity come out at a level.",
  among_related: "How often those of two related entities do: sister firms, one household.",
  correlated: "Comparisons that agree together by chance.",
  weights: "Where weights come from: estimated on the data, or expected.",
  estimate: "Whether weights are estimated on the data.",
  contest: "Where a record chooses its only partner: found, promised, none.",
  wording: "Words that sources write differently: used or told.",
  vetoes: "Contradictions that no other agreement outweighs.",
  conditions: "Verdicts by rule, beside the evidence: the first that holds decides.",
  when: "all, any and not over leaves: comparison and the levels it is.",
  then: "same, unsure, at most unsure, kept apart (no third record joins the two), or different.",
  clustering: "What holds a cluster together.",
  passes: "Passes in order; each says what it does otherwise than the plan.",
  works_on: "everything, unmatched, one unmatched, or ambiguous.",
  further: "Comparisons that this pass adds.",
  related: "Values of records that refer to those compared.",
};
const VALUES: Record<string, readonly string[]> = {
  contest: ["found", "promised", "none"],
  wording: ["used", "told"],
  then: ["same", "unsure", "at most unsure", "kept apart", "different"],
  works_on: ["everything", "unmatched", "one unmatched", "ambiguous"],
  scope: ["all", "across sources", "within sources"],
  estimate: ["true", "false"],
};

/** The comparison that a line of text speaks of: by the nearest `using:` or `comparison:` around it. */
function usingNear(state: EditorState, line: number, words: Words): string | undefined {
  const known = new Set(words.comparisons.map(({ name }) => name));
  for (let number = line; number > Math.max(0, line - 8); number--) {
    const found = /using:\s*([\w ]+)/.exec(state.doc.line(number).text)?.[1]?.trim();
    if (found && known.has(found)) return found;
  }
  return undefined;
}

/** What may stand at the cursor: fields and parts in keys, ways of comparing behind `using`, levels, words of the plan. */
export function completionsAt(context: CompletionContext, words: Words): CompletionResult | null {
  const line = context.state.doc.lineAt(context.pos);
  const before = line.text.slice(0, context.pos - line.from);
  const word = /[\w.]*$/.exec(before)?.[0] ?? "";
  if (!word && !context.explicit && !/[:|+,[{]\s?$/.test(before)) return null;
  const from = context.pos - word.length;
  const fields = words.fields.map(({ name, label }) => ({ label: name, detail: label, type: "variable" }));
  if (/\|\s*\w*$/.test(before)) {
    return {
      from,
      options: Object.entries(words.takers).map(([label, detail]) => ({ label, detail, type: "keyword" })),
    };
  }
  if (/using:\s*[\w ]*$/.test(before)) {
    return { from, options: words.comparisons.map(({ name }) => ({ label: name, type: "function" })) };
  }
  if (/(field|comparison):\s*[\w.]*$/.test(before) || /^\s*-\s+[\w.]+$/.test(before) || /\+\s*[\w.]*$/.test(before)) {
    return { from, options: fields };
  }
  const name = /(\w+):\s*\w*$/.exec(before)?.[1];
  if (name && VALUES[name]) return { from, options: VALUES[name].map((label) => ({ label, type: "constant" })) };
  const using = usingNear(context.state, line.number, words);
  const levels = words.comparisons.find((one) => one.name === using)?.levels ?? {};
  if (/(bits|among_\w+|learned|is):.*$/.test(before) && using) {
    return { from, options: Object.entries(levels).map(([label, detail]) => ({ label, detail, type: "enum" })) };
  }
  if (/^\s*(-\s*)?\w*$/.test(before)) {
    return { from, options: Object.entries(PARTS).map(([label, info]) => ({ label, info, apply: `${label}: ` })) };
  }
  return null;
}

/** What the word at a place means. */
export function helpAt(state: EditorState, pos: number, words: Words): string | null {
  const line = state.doc.lineAt(pos);
  const offset = pos - line.from;
  const start = /[\w.]*$/.exec(line.text.slice(0, offset))?.[0].length ?? 0;
  const end = /^[\w.]*/.exec(line.text.slice(offset))?.[0].length ?? 0;
  const word = line.text.slice(offset - start, offset + end);
  if (!word) return null;
  const isName = line.text.slice(offset + end).startsWith(":");
  if (isName && PARTS[word]) return PARTS[word];
  const comparison = words.comparisons.find(({ name }) => name === word);
  if (comparison && !isName) {
    const levels = Object.entries(comparison.levels).map(([level, says]) => `${level}: ${says}`);
    return [`${word} comes out as:`, ...levels].join("\n");
  }
  const field = words.fields.find(({ name }) => name === word);
  if (field) return `${field.label} (${word})`;
  return words.takers[word] ?? null;
}
