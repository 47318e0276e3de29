import { useParams } from "react-router";
import { count, counted } from "../../../domain/format";
import { Button, CELL, Empty, Faces, Heads, notify, Page, Pane } from "../../../ui";
import { TidyNav } from "../TidyNav";
import { type ReferenceField, useLink, useReferences, useResolveReferences } from "./queries";

function Unresolved({ slug, field }: { slug: string; field: ReferenceField }) {
  const link = useLink(slug, field.field);
  return (
    <table className="mt-2 w-full text-sm">
      <thead>
        <Heads titles={["Record", "Refers to", "Might be"]} />
      </thead>
      <tbody>
        {field.listed.map((item) => (
          <tr key={item.record_id}>
            <td className={`${CELL} whitespace-nowrap`}>
              {item.source} <span className="font-mono text-xs">{item.source_key}</span>
            </td>
            <td className={`${CELL} font-medium`}>{item.value}</td>
            <td className={CELL}>
              {item.likely.length === 0 && <span className="text-soft">nothing of a like name</span>}
              <span className="flex flex-wrap gap-2">
                {item.likely.map((target) => (
                  <Button
                    needs="correct"
                    key={target.record_id}
                    small
                    disabled={link.isPending}
                    onClick={() =>
                      link.mutate(
                        { record_id: item.record_id, target_id: target.record_id },
                        { onError: (error) => notify(error, true) },
                      )
                    }
                  >
                    {target.name}
                    <span className="text-xs text-soft">
                      {target.source} {target.source_key}
                    </span>
                  </Button>
                ))}
              </span>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** References to other registers: how each is known, and those that lead nowhere, to be linked by hand. */
export function ReferencesPage() {
  const { slug = "" } = useParams();
  const references = useReferences(slug);
  const resolve = useResolveReferences(slug);
  return (
    <Page
      title="Tidy"
      about={<TidyNav />}
      actions={
        <Button
          needs="run"
          disabled={resolve.isPending || references.data?.length === 0}
          onClick={() => resolve.mutate(undefined, { onError: (error) => notify(error, true) })}
        >
          Resolve all again
        </Button>
      }
    >
      <Pane label="References" className="h-full px-4">
        <Faces query={references}>
          {(fields) =>
            fields.length === 0 ? (
              <Empty title="No field of this register refers to another.">
                <p>
                  A field of kind “reference” (under Bring in, Fields of this register) leads to records of another
                  register: a contact to its organisation.
                </p>
              </Empty>
            ) : (
              fields.map((field) => (
                <section key={field.field} aria-label={field.label} className="py-3">
                  <h2 className="font-semibold">
                    {field.label} <span className="font-normal text-soft">to {field.register_slug}</span>
                  </h2>
                  <p className="text-sm text-soft">
                    {count(field.by_id)} known by id, {count(field.by_name)} by name, {count(field.by_hand)} by hand;{" "}
                    <strong className="font-semibold text-ink">{counted(field.unresolved, "reference")}</strong>{" "}
                    unresolved
                    {field.unresolved > field.listed.length && `, the first ${count(field.listed.length)} below`}.
                  </p>
                  {field.listed.length > 0 && <Unresolved slug={slug} field={field} />}
                </section>
              ))
            )
          }
        </Faces>
      </Pane>
    </Page>
  );
}
