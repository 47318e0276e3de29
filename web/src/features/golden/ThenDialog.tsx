import { useState } from "react";
import type { Schemas } from "../../api/client";
import { counted, moment } from "../../domain/format";
import { Button, CELL, Faces, Heads, Modal } from "../../ui";
import { type Golden, useGoldenThen } from "./queries";

interface Props {
  slug: string;
  golden: Golden;
  fields: readonly Schemas["FieldOut"][];
  onClose: () => void;
}

const today = () => moment(new Date().toISOString()).slice(0, 10);

/** A golden record as it was at the end of a day, beside what it is now. */
export function ThenDialog({ slug, golden, fields, onClose }: Props) {
  const [day, setDay] = useState(today());
  const then = useGoldenThen(slug, golden.key, day);
  return (
    <Modal title={`${golden.key} as it was`} wide onClose={onClose}>
      <label className="flex items-center gap-2 text-sm">
        At the end of
        <input
          type="date"
          value={day}
          max={today()}
          onChange={(event) => setDay(event.target.value || today())}
          className="h-8 rounded-[3px] border border-line-strong bg-sheet px-2"
        />
      </label>
      <div className="mt-3 max-h-[55vh] overflow-auto" tabIndex={0} role="region" aria-label="Values then and now">
        <Faces query={then}>
          {({ values, members }) =>
            values === null || values === undefined ? (
              <p className="text-sm">It was not in force on that day.</p>
            ) : (
              <>
                <p className="text-sm text-soft">
                  It stood for {counted(members.length, "record")}:{" "}
                  {members.map(({ source, source_key }) => `${source} ${source_key}`).join(", ")}
                </p>
                <table className="mt-2 w-full text-sm">
                  <thead>
                    <Heads titles={["Field", "Then", "Now"]} />
                  </thead>
                  <tbody>
                    {fields
                      .filter(({ name }) => values[name] || golden.values[name])
                      .map(({ name, label }) => (
                        <tr key={name}>
                          <td className={`${CELL} text-soft`}>{label}</td>
                          <td className={CELL}>{values[name] ?? "–"}</td>
                          <td
                            className={`${CELL} ${values[name] === golden.values[name] ? "text-soft" : "font-medium"}`}
                          >
                            {golden.values[name] ?? "–"}
                          </td>
                        </tr>
                      ))}
                  </tbody>
                </table>
              </>
            )
          }
        </Faces>
      </div>
      <div className="mt-4 flex justify-end">
        <Button onClick={onClose}>Close</Button>
      </div>
    </Modal>
  );
}
