import { useEffect, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { ProblemError } from "../../../api/client";
import type { Plan } from "../queries";
import { type Draft, useKeepDraft } from "./queries";

const KEEP_AFTER_MS = 600;

export interface OpenDraft {
  yaml: string;
  title: string;
  /** The version that the text was made from. */
  basedOn: number;
  draft: Draft | null;
  state: "unchanged" | "keeping" | "kept" | "taken" | "failed";
  trouble: string;
  change: (yaml: string) => void;
  /** Lay another plan on the bench; what is `inForce` is kept already, though the page may not have heard of it yet. */
  open: (from: { yaml: string; title: string; basedOn: number; draft: Draft | null; inForce?: boolean }) => void;
  keepAsAnother: () => void;
}

/** The plan as it is worked on: every change is kept as a draft a moment later, and never over what somebody else wrote. */
export function useDraft(slug: string, plan: Plan, drafts: readonly Draft[]): OpenDraft {
  const [params, setParams] = useSearchParams();
  const asked = drafts.find(({ id }) => `${id}` === params.get("draft")) ?? null;
  const [yaml, setYaml] = useState(asked?.yaml ?? plan.yaml);
  const [title, setTitle] = useState(asked?.title ?? "");
  const [basedOn, setBasedOn] = useState(asked?.based_on ?? plan.version);
  const [draft, setDraft] = useState(asked);
  const [dirty, setDirty] = useState(false);
  const keep = useKeepDraft(slug);
  const latest = useRef({ yaml, title, basedOn, draft });
  latest.current = { yaml, title, basedOn, draft };
  const show = (id: number | null) =>
    setParams(
      (present) => {
        const next = new URLSearchParams(present);
        if (id === null) next.delete("draft");
        else next.set("draft", `${id}`);
        return next;
      },
      { replace: true },
    );
  const send = (asAnother: boolean) => {
    const sent = latest.current;
    keep.mutate(
      {
        draft: asAnother ? null : sent.draft,
        title: sent.title || "Draft",
        yaml: sent.yaml,
        based_on: sent.basedOn,
      },
      {
        onSuccess: (kept) => {
          setDraft(kept);
          if (latest.current.yaml === sent.yaml) setDirty(false);
          if (sent.draft?.id !== kept.id) show(kept.id);
        },
      },
    );
  };
  const taken = keep.error instanceof ProblemError && keep.error.status === 409;
  const waiting = dirty && !keep.isPending && !taken;
  useEffect(() => {
    if (!waiting) return;
    const timer = setTimeout(() => send(false), KEEP_AFTER_MS);
    return () => clearTimeout(timer);
  }, [waiting, yaml]);
  return {
    yaml,
    title,
    basedOn,
    draft,
    state: taken ? "taken" : keep.error ? "failed" : dirty ? "keeping" : draft ? "kept" : "unchanged",
    trouble: keep.error?.message ?? "",
    change: (next) => {
      setYaml(next);
      setDirty(true);
    },
    open: (from) => {
      keep.reset();
      setYaml(from.yaml);
      setTitle(from.title);
      setBasedOn(from.basedOn);
      setDraft(from.draft);
      // What is ready-made or proposed is nowhere kept yet.
      setDirty(from.draft === null && !from.inForce && from.yaml !== plan.yaml);
      show(from.draft?.id ?? null);
    },
    keepAsAnother: () => {
      keep.reset();
      send(true);
    },
  };
}
