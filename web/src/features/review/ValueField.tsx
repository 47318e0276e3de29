import { useMutation } from "@tanstack/react-query";
import { client, unwrap } from "../../api/client";
import { useLayout, useRefreshRegister, useRegister } from "../../api/registers";
import { Choice, notify } from "../../ui";

/** By which field of numbers the most valuable doubts come first. */
export function ValueField({ slug }: { slug: string }) {
  const register = useRegister(slug);
  const fields = (useLayout(slug).data?.fields ?? []).filter(({ kind }) => kind === "number");
  const refresh = useRefreshRegister(slug);
  const choose = useMutation({
    mutationFn: (field: string) =>
      unwrap(client.PUT("/api/registers/{slug}/value-field", { params: { path: { slug } }, body: { field } })),
    onSuccess: refresh,
    onError: (error) => notify(error, true),
  });
  if (fields.length === 0)
    return <span className="text-xs text-soft">This register has no field of numbers to go by.</span>;
  return (
    <Choice
      label="Value"
      value={register?.value_field ?? ""}
      options={[
        { value: "", label: "by no field" },
        ...fields.map(({ name, label }) => ({ value: name, label: `by ${label}` })),
      ]}
      onChange={(field) => choose.mutate(field)}
      className="w-36"
    />
  );
}
