import { autocompletion } from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { yaml } from "@codemirror/lang-yaml";
import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { lintGutter, setDiagnostics } from "@codemirror/lint";
import { Compartment, EditorState } from "@codemirror/state";
import { EditorView, hoverTooltip, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { useEffect, useRef } from "react";
import type { ProblemAt, Words } from "../draft/queries";
import { completionsAt, helpAt } from "./words";

const COLOURS = HighlightStyle.define([
  { tag: tags.comment, color: "var(--soft)" },
  { tag: [tags.propertyName, tags.definition(tags.propertyName)], color: "var(--marine)" },
  { tag: [tags.number, tags.bool], color: "var(--rust)" },
]);
const LOOK = EditorView.theme({
  "&": { height: "100%", fontSize: "12.5px", backgroundColor: "var(--sheet)", color: "var(--ink)" },
  "&.cm-focused": { outline: "2px solid var(--plum)" },
  ".cm-content": { fontFamily: "var(--font-mono)", caretColor: "var(--ink)" },
  ".cm-cursor": { borderLeftColor: "var(--ink)" },
  ".cm-gutters": { backgroundColor: "var(--sunk)", color: "var(--soft)", borderRight: "1px solid var(--line)" },
  ".cm-tooltip": { backgroundColor: "var(--sheet)", color: "var(--ink)", border: "1px solid var(--line-strong)" },
  ".cm-tooltip.cm-tooltip-autocomplete > ul > li[aria-selected]": {
    backgroundColor: "var(--plum-wash)",
    color: "var(--ink)",
  },
  ".cm-selectionBackground, &.cm-focused > .cm-scroller > .cm-selectionLayer .cm-selectionBackground": {
    backgroundColor: "var(--plum-wash)",
  },
  ".cm-diagnostic-error": { borderLeft: "4px solid var(--rust)" },
  ".cm-plan-help": { padding: "4px 8px", maxWidth: "26rem", whiteSpace: "pre-line" },
});

interface Props {
  value: string;
  problems: readonly ProblemAt[];
  words: Words | undefined;
  onChange: (value: string) => void;
}

/** The plan as text: problems at their lines, names completed, help where the pointer rests. */
export function PlanTextEditor({ value, problems, words, onChange }: Props) {
  const place = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(null);
  const latest = useRef({ value, onChange });
  latest.current = { value, onChange };
  useEffect(() => {
    if (!place.current) return;
    const made = new EditorView({ parent: place.current, state: stateOf(latest.current.value, latest) });
    view.current = made;
    return () => {
      made.destroy();
      view.current = null;
    };
  }, []);
  useEffect(() => {
    view.current?.dispatch({ effects: help.reconfigure(words ? helpOf(words) : []) });
  }, [words]);
  useEffect(() => {
    const shown = view.current?.state.doc.toString();
    if (shown !== undefined && shown !== value) {
      view.current?.dispatch({ changes: { from: 0, to: shown.length, insert: value } });
    }
  }, [value]);
  useEffect(() => {
    const state = view.current?.state;
    if (!state) return;
    const diagnostics = problems.map((problem) => ({
      ...rangeOf(state, problem),
      severity: "error" as const,
      message: problem.says,
    }));
    view.current?.dispatch(setDiagnostics(state, diagnostics));
  }, [problems]);
  return <div ref={place} className="h-full min-h-0 overflow-hidden border-y border-line" />;
}

const help = new Compartment();

function helpOf(words: Words) {
  return [
    autocompletion({ override: [(context) => completionsAt(context, words)] }),
    hoverTooltip((view, pos) => {
      const told = helpAt(view.state, pos, words);
      if (!told) return null;
      return {
        pos,
        create: () => {
          const dom = document.createElement("div");
          dom.className = "cm-plan-help text-xs";
          dom.textContent = told;
          return { dom };
        },
      };
    }),
  ];
}

function stateOf(value: string, latest: { current: { onChange: (value: string) => void } }) {
  return EditorState.create({
    doc: value,
    extensions: [
      lineNumbers(),
      history(),
      yaml(),
      syntaxHighlighting(COLOURS),
      LOOK,
      lintGutter(),
      help.of([]),
      keymap.of([...defaultKeymap, ...historyKeymap]),
      EditorView.lineWrapping,
      EditorView.contentAttributes.of({ "aria-label": "Match plan as YAML", spellcheck: "false" }),
      EditorView.updateListener.of((update) => {
        if (update.docChanged) latest.current.onChange(update.state.doc.toString());
      }),
    ],
  });
}

/** The stretch of text that a problem is about; a problem of a text that has changed since stays within it. */
function rangeOf(state: EditorState, problem: ProblemAt) {
  const at = (line: number, column: number) => {
    const found = state.doc.line(Math.max(1, Math.min(state.doc.lines, line)));
    return Math.min(found.to, found.from + Math.max(0, column - 1));
  };
  const from = at(problem.line, problem.column);
  const line = state.doc.lineAt(from);
  const to = at(problem.last_line, problem.last_column);
  return { from, to: to > from + 1 ? to : line.to > from ? line.to : from };
}
