import type { Schemas } from "../../api/client";
import type { Mapping } from "../../domain/mapping";
import { Button } from "../../ui";

/** What most of the first rows lack, told once, with the mapping that would cure it one click away. */
export function MappingTrouble({
  trouble,
  onCure,
}: {
  trouble: Schemas["TroubleOut"];
  onCure: (mapping: Mapping) => void;
}) {
  return (
    <div role="alert" className="my-2 flex flex-wrap items-center gap-3 border-l-2 border-rust bg-rust-wash px-3 py-2">
      <p className="min-w-64 flex-1 text-sm">{trouble.says}</p>
      {trouble.cure_says && <Button onClick={() => onCure(trouble.cure)}>{trouble.cure_says}</Button>}
    </div>
  );
}
