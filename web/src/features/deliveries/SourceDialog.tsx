import { useRegister } from "../../api/registers";
import { Button, Choice, Modal, notify, type Option } from "../../ui";
import { type Source, useChangeSource } from "./queries";

const CREATES: readonly Option<Source["creates"]>[] = [
  { value: "always", label: "makes golden records", hint: "what nobody else knows becomes a golden record" },
  { value: "never", label: "makes none", hint: "only recognised; what is not there is refused" },
  { value: "unless known", label: "brings new ones only", hint: "what is there already is refused as a duplicate" },
];

/** What a source may do to golden records. */
export function SourceDialog({ slug, source, onClose }: { slug: string; source: Source; onClose: () => void }) {
  const change = useChangeSource(slug);
  const seen_version = useRegister(slug)?.version ?? 1;
  const set = (what: { creates?: Source["creates"]; supplies?: boolean }) =>
    change.mutate({ name: source.name, ...what, seen_version }, { onError: (error) => notify(error, true) });
  return (
    <Modal title={`What ${source.name} may do`} onClose={onClose}>
      <div className="space-y-4 text-sm">
        <div className="flex items-center gap-3">
          <span className="w-28 text-soft">A new record</span>
          <Choice
            label="A new record"
            value={source.creates}
            options={CREATES}
            onChange={(creates) => set({ creates })}
            className="w-64"
          />
        </div>
        <label className="flex items-start gap-3">
          <span className="w-28 text-soft">Its values</span>
          <input
            type="checkbox"
            className="mt-1 accent-plum"
            checked={source.supplies}
            disabled={change.isPending}
            onChange={(event) => set({ supplies: event.target.checked })}
          />
          <span className="flex-1">
            count in golden records. Otherwise its records are linked only: their values stand where no other source
            knows the record.
          </span>
        </label>
      </div>
      <div className="mt-4 flex justify-end">
        <Button look="main" onClick={onClose}>
          Done
        </Button>
      </div>
    </Modal>
  );
}

/** What a source may not do, in a few words; nothing where it may do all. */
export function restraintOf({ creates, supplies }: Pick<Source, "creates" | "supplies">): string {
  const told = [
    creates === "never" && "makes no golden records",
    creates === "unless known" && "brings new ones only",
    supplies === false && "links only",
  ];
  return told.filter(Boolean).join(", ");
}
