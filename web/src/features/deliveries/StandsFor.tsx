import { Choice } from "../../ui";
import type { LoadOptions } from "./queries";

const DELIVERS = [
  { value: "full", label: "everything the source has" },
  { value: "changes", label: "only what changed" },
] as const;
const GONE = [
  { value: "keep", label: "stay as they are" },
  { value: "end", label: "are marked as ended" },
] as const;

/** What the delivery stands for, and what becomes of records that it no longer holds. */
export function StandsFor({ how, onChange }: { how: LoadOptions; onChange: (how: LoadOptions) => void }) {
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm">
      <span>The file holds</span>
      <Choice
        label="The file holds"
        value={how.delivers}
        options={DELIVERS}
        onChange={(delivers) => onChange({ ...how, delivers })}
      />
      {how.delivers === "full" && (
        <>
          <span className="ml-3">Records it lacks</span>
          <Choice
            label="Records it lacks"
            value={how.gone}
            options={GONE}
            onChange={(gone) => onChange({ ...how, gone })}
          />
        </>
      )}
    </div>
  );
}
