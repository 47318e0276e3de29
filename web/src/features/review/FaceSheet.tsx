import type { ReactNode } from "react";
import { align, type Stretch } from "../../domain/align";
import { comparisonOf, faceToFace, meansTheSame, tidyRowsOf } from "../../domain/fields";
import { Pane } from "../../ui";
import type { Pair } from "./queries";
import { Seam } from "./Seam";

const SIDES = {
  left: { text: "text-marine", wash: "bg-marine-wash", line: "decoration-marine" },
  right: { text: "text-rust", wash: "bg-rust-wash", line: "decoration-rust" },
} as const;
type Side = keyof typeof SIDES;

/** A value with what is only on this side marked by wash and underline; faintly where the two are only written otherwise. */
function Value({ stretches, side, faint }: { stretches: readonly Stretch[]; side: Side; faint: boolean }) {
  const { text, wash, line } = SIDES[side];
  const marked = faint
    ? "bg-transparent text-inherit underline decoration-line-strong decoration-dotted underline-offset-3"
    : `rounded-[2px] ${wash} ${text} underline ${line} decoration-2 underline-offset-3`;
  return (
    <>
      {stretches.map((stretch, place) =>
        stretch.common ? (
          <span key={place}>{stretch.text}</span>
        ) : (
          <mark key={place} className={marked}>
            {stretch.text}
          </mark>
        ),
      )}
    </>
  );
}

function Head({ side, source, id }: { side: Side; source: string; id: string }) {
  return (
    <th
      scope="col"
      className={`sticky top-0 z-10 border-b-2 border-current bg-paper px-3 py-1.5 ${SIDES[side].text} ${side === "left" ? "text-right" : "text-left"}`}
    >
      {source} <span className="font-mono text-sm font-normal">{id}</span>
    </th>
  );
}

/** Evidence by field row; a comparison over several fields stands at the first of its rows only. */
function seams(pair: Pair, rows: readonly string[]) {
  const byRow = new Map<string, Pair["evidence"][number]>();
  const compared = pair.evidence.map((item) => item.field);
  for (const row of rows) {
    const name = comparisonOf(row, compared);
    const item = pair.evidence.find((evidence) => evidence.field === name);
    if (item && ![...byRow.values()].includes(item)) byRow.set(row, item);
  }
  return byRow;
}

/** What related records bring to one side; what the other side has as well stands out. */
function RelatedCell({ values, others, className }: { values: string[]; others: string[]; className: string }) {
  return (
    <td className={className}>
      {values.map((value) => (
        <span key={value} className={`block ${others.includes(value) ? "font-semibold" : "text-soft"}`}>
          {value}
        </span>
      ))}
    </td>
  );
}

/** Two records face to face, a row per field, with the seam between them. */
export function FaceSheet({ pair, showTidy }: { pair: Pair; showTidy: boolean }) {
  const rows = showTidy
    ? faceToFace(tidyRowsOf(pair.fields, pair.left.tidy, pair.right.tidy), pair.left.tidy, pair.right.tidy)
    : faceToFace(pair.fields, pair.left.fields, pair.right.fields);
  const seam = seams(
    pair,
    rows.map((row) => row.name),
  );
  const cell = "border-b border-line px-3 py-1.5";
  return (
    <Pane label="The two records" className="flex-1">
      <p className="px-4 pt-3 pb-2 text-base">{pair.reason}</p>
      <table className="w-full table-fixed">
        <thead>
          <tr>
            <th
              scope="col"
              className="sticky top-0 z-10 w-36 border-b-2 border-line-strong bg-paper px-4 text-left text-xs text-soft"
            >
              {showTidy ? "Tidy values" : "Delivered values"}
            </th>
            <Head side="left" source={pair.left.source} id={pair.left.source_key} />
            <th scope="col" className="sticky top-0 z-10 w-36 border-b-2 border-line-strong bg-paper text-xs text-soft">
              seam, bits
            </th>
            <Head side="right" source={pair.right.source} id={pair.right.source_key} />
          </tr>
        </thead>
        <tbody className={showTidy ? "font-mono text-sm" : ""}>
          {rows.map((row): ReactNode => {
            const [left, right] = align(row.left, row.right);
            const oneSided = !row.left || !row.right;
            const item = seam.get(row.name);
            const faint = !showTidy && meansTheSame(row.name, pair.left.tidy, pair.right.tidy);
            return (
              <tr key={row.name}>
                <th scope="row" className={`${cell} px-4 text-left font-sans text-xs font-medium text-soft`}>
                  {row.label}
                </th>
                <td className={`${cell} text-right break-words`}>
                  {oneSided ? row.left : <Value stretches={left} side="left" faint={faint} />}
                </td>
                <td className={`${cell} py-0`}>
                  <Seam bits={item?.bits} level={item?.level} />
                </td>
                <td className={`${cell} break-words`}>
                  {oneSided ? row.right : <Value stretches={right} side="right" faint={faint} />}
                </td>
              </tr>
            );
          })}
          {pair.related.map(({ label, left, right }) => (
            <tr key={label}>
              <th scope="row" className={`${cell} px-4 text-left font-sans text-xs font-medium text-soft`}>
                {label}
              </th>
              <RelatedCell values={left} others={right} className={`${cell} text-right break-words`} />
              <td className={cell} />
              <RelatedCell values={right} others={left} className={`${cell} break-words`} />
            </tr>
          ))}
        </tbody>
      </table>
    </Pane>
  );
}
