import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { useLayout } from "../../api/registers";
import { Button, notify, Trouble } from "../../ui";

function usePersonal(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "personal"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/personal-fields", { params: { path: { slug } } })),
  });
}

function useSetPersonal(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["PersonalIn"]) =>
      unwrap(client.PUT("/api/registers/{slug}/personal-fields", { params: { path: { slug } }, body })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: keys.register(slug) }),
  });
}

/** Which fields are personal: hidden from those who do not need them. */
export function PersonalPart({ slug }: { slug: string }) {
  const personal = usePersonal(slug).data;
  const layout = useLayout(slug).data;
  const set = useSetPersonal(slug);
  const [changed, setChanged] = useState<string[] | null>(null);
  if (!personal || !layout) return null;
  const chosen = changed ?? personal.fields;
  return (
    <details className="mt-4 border-t border-line pt-3 text-sm">
      <summary className="cursor-pointer font-medium">{`Personal fields (${personal.fields.length})`}</summary>
      <p className="mt-1 text-xs text-soft">
        Stewards, approvers, clerks and auditors see their values; analysts and operators see that there is one.
      </p>
      <div className="mt-1 grid max-h-40 grid-cols-3 gap-x-4 overflow-auto">
        {layout.fields.map(({ name, label }) => (
          <label key={name} className="flex min-h-7 items-center gap-1.5">
            <input
              type="checkbox"
              className="accent-plum"
              checked={chosen.includes(name)}
              onChange={() =>
                setChanged(chosen.includes(name) ? chosen.filter((other) => other !== name) : [...chosen, name])
              }
            />
            {label}
          </label>
        ))}
      </div>
      {set.error && <Trouble error={set.error} />}
      <div className="mt-2 text-right">
        <Button
          needs="govern"
          disabled={changed === null || set.isPending}
          onClick={() =>
            set.mutate(
              { fields: chosen, seen_version: personal.version },
              { onSuccess: () => notify("It is set which fields are personal.") },
            )
          }
        >
          Set which are personal
        </Button>
      </div>
    </details>
  );
}
