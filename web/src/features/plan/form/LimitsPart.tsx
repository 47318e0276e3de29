import type { Place } from "../../../domain/planText";
import type { Editing } from "./editing";
import { NumberInput } from "./inputs";

/** Where the bands begin. */
export function LimitsPart({ edit, place = ["limits"] }: { edit: Editing; place?: Place }) {
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-2 text-sm">
      <span>
        the same from{" "}
        <NumberInput
          label="Same from, in bits"
          width="w-20"
          value={edit.get([...place, "same"])}
          onSet={(value) => value !== undefined && edit.set([...place, "same"], value)}
        />{" "}
        bits
      </span>
      <span>
        in doubt from{" "}
        <NumberInput
          label="In doubt from, in bits"
          width="w-20"
          value={edit.get([...place, "unsure"])}
          onSet={(value) => value !== undefined && edit.set([...place, "unsure"], value)}
        />{" "}
        bits
      </span>
    </div>
  );
}
