import type { ReactNode } from "react";
import { count } from "../../domain/format";
import { CELL, Heads } from "../../ui";
import type { Kept } from "./queries";

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section aria-label={title}>
      <h2 className="mb-1 font-semibold">{title}</h2>
      {children}
    </section>
  );
}

/** The records that would be erased. */
export function KeptRecords({ kept }: { kept: Kept }) {
  return (
    <Part
      title={`Records${kept.golden_keys.length > 0 ? `, and the golden records ${kept.golden_keys.join(", ")}` : ""}`}
    >
      <table className="w-full text-sm">
        <thead>
          <Heads titles={["Source", "Id", "What was delivered"]} />
        </thead>
        <tbody>
          {kept.records.map((record) => (
            <tr key={record.id}>
              <td className={CELL}>{record.source}</td>
              <td className={`${CELL} font-mono text-xs`}>{record.source_key}</td>
              <td className={CELL}>{Object.values(record.fields).join(", ")}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Part>
  );
}

/** Where else the person's values stand, and which files hold them. */
export function KeptPlaces({ kept }: { kept: Kept }) {
  return (
    <Part title="Where their values stand">
      <table className="w-full text-sm">
        <thead>
          <Heads titles={["Place", "How many"]} />
        </thead>
        <tbody>
          {kept.places.map((place) => (
            <tr key={place.what}>
              <td className={CELL}>{place.what}</td>
              <td className={`${CELL} text-right`}>{count(place.count)}</td>
            </tr>
          ))}
          {kept.files.map((file) => (
            <tr key={`${file.what} ${file.name}`}>
              <td className={CELL}>{`file ${file.name}, ${file.what}`}</td>
              <td className={`${CELL} text-right ${file.needed ? "text-rust" : ""}`}>
                {file.needed ? "stays: still needed" : "deleted whole"}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Part>
  );
}

/** Who has the values already, and is not reached from here. */
export function ToldBefore({ kept }: { kept: Kept }) {
  return (
    <Part title="Told before, to be asked by you">
      {kept.told.length === 0 ? (
        <p className="text-sm text-soft">Nothing of this register is sent out or told by itself.</p>
      ) : (
        <ul className="text-sm">
          {kept.told.map(({ who, how }) => (
            <li key={`${who} ${how}`} className="border-b border-line py-1">
              {who} <span className="text-soft">{how}</span>
            </li>
          ))}
        </ul>
      )}
    </Part>
  );
}
