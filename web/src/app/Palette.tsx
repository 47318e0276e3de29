import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import type { Register } from "../api/registers";
import { useMayIn } from "../api/who";
import { nameOf } from "../domain/format";
import { Modal } from "../ui";
import { STAGES, WAYS } from "./stages";
import { toggleTheme } from "./theme";

interface Target {
  label: string;
  hint: string;
  go: () => void;
}

function useGoldenTargets(slug: string | undefined, search: string, go: (path: string) => void): Target[] {
  const found = useQuery({
    queryKey: keys.of(slug ?? "", "palette", search),
    enabled: slug !== undefined && search.length >= 2,
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/golden", {
          params: { path: { slug: slug ?? "" }, query: { search, limit: 6 } },
        }),
      ),
  });
  return (found.data?.golden ?? []).map((line) => ({
    label: `${line.key}  ${nameOf(line.values)}`,
    hint: "golden record",
    go: () => go(`/r/${slug}/golden/${line.key}`),
  }));
}

/** Reaches every screen, golden record and action by typing. */
export function Palette({
  registers,
  slug,
  onClose,
}: {
  registers: readonly Register[];
  slug: string | undefined;
  onClose: () => void;
}) {
  const [search, setSearch] = useState("");
  const navigate = useNavigate();
  const mayIn = useMayIn();
  const go = (path: string) => {
    navigate(path);
    onClose();
  };
  const screens: Target[] = registers.flatMap((register) =>
    STAGES.filter(({ needs }) => mayIn(register.slug, needs)).map((stage) => ({
      label: `${register.name}: ${stage.label}`,
      hint: stage.waits(register).words,
      go: () => go(`/r/${register.slug}/${stage.path}`),
    })),
  );
  const actions: Target[] = [
    { label: "All registers", hint: "what waits for you", go: () => go("/") },
    ...registers
      .filter(({ slug }) => mayIn(slug, "see"))
      .map((register) => ({
        label: `${register.name}: Preview the merge`,
        hint: "action",
        go: () => go(`/r/${register.slug}/golden/merge`),
      })),
    ...registers.flatMap((register) =>
      WAYS.filter(({ needs }) => mayIn(register.slug, needs)).map(({ path, label, hint }) => ({
        label: `${register.name}: ${label}`,
        hint,
        go: () => go(`/r/${register.slug}/${path}`),
      })),
    ),
    {
      label: "Switch between light and dark",
      hint: "action",
      go: () => {
        toggleTheme();
        onClose();
      },
    },
  ];
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const fitting = [...screens, ...actions].filter((target) =>
    words.every((word) => target.label.toLowerCase().includes(word)),
  );
  const targets = [...useGoldenTargets(slug, search.trim(), go), ...fitting].slice(0, 14);
  return (
    <Modal title="Go to" onClose={onClose}>
      <Combobox<Target | null> value={null} onChange={(target) => target?.go()} immediate>
        <ComboboxInput
          autoFocus
          aria-label="Type a register, a stage, a golden key or a name"
          placeholder="a register, a stage, a golden key or a name"
          onChange={(event) => setSearch(event.target.value)}
          className="h-9 w-full rounded-[3px] border border-line-strong bg-sheet px-2"
        />
        <ComboboxOptions static className="mt-2 max-h-96 overflow-auto text-sm">
          {targets.map((target) => (
            <ComboboxOption
              key={target.label}
              value={target}
              className="flex justify-between gap-4 rounded-[2px] px-2 py-1 data-focus:bg-plum-wash"
            >
              <span>{target.label}</span>
              <span className="text-xs text-soft">{target.hint}</span>
            </ComboboxOption>
          ))}
        </ComboboxOptions>
        {targets.length === 0 && <p className="px-2 py-3 text-sm text-soft">Nothing is called that.</p>}
      </Combobox>
    </Modal>
  );
}
