import { useParams, useSearchParams } from "react-router";
import { counted } from "../../../domain/format";
import { Button, Choice, Empty, Faces, notify, Page, Pane } from "../../../ui";
import type { Scope } from "../recordsBehind";
import { TidyNav } from "../TidyNav";
import { FieldDetail } from "./FieldDetail";
import { ProfileTable } from "./ProfileTable";
import { useAskProfile, useProfile, useScopes } from "./queries";

/** So many records that looking at all their values is work for the background. */
function NotYet({ slug, scope }: { slug: string; scope: Scope }) {
  const ask = useAskProfile(slug);
  return (
    <Empty title="These are too many records to look at while you wait.">
      <p>The work is done in the background; the profile shows as soon as it is ready.</p>
      <Button
        look="main"
        disabled={ask.isPending}
        onClick={() => ask.mutate(scope, { onError: (error) => notify(error, true) })}
      >
        Look at all values
      </Button>
    </Empty>
  );
}

/** What every field looks like, of all records or of a source or delivery, and of another one beside it. */
export function ProfilePage() {
  const { slug = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const scope = params.get("of") ?? "";
  const beside = params.get("beside");
  const scopes = useScopes(slug);
  const first = useProfile(slug, scope);
  const second = useProfile(slug, beside);
  const set = (name: string, value: string | null) =>
    setParams(
      (present) => {
        if (value === null) present.delete(name);
        else present.set(name, value);
        return present;
      },
      { replace: true },
    );
  const options = scopes.data ?? [{ value: "", label: "all records" }];
  return (
    <Page
      title="Tidy"
      about={<TidyNav />}
      actions={
        <>
          <span className="text-sm">Values of</span>
          <Choice
            label="Values of"
            value={scope}
            options={options}
            onChange={(value) => set("of", value || null)}
            className="w-44"
          />
          <span className="text-sm">beside</span>
          <Choice
            label="Beside"
            value={beside ?? "nothing"}
            options={[{ value: "nothing", label: "nothing" }, ...options.filter(({ value }) => value !== scope)]}
            onChange={(value) => set("beside", value === "nothing" ? null : value)}
            className="w-44"
          />
        </>
      }
    >
      <Faces query={first}>
        {({ profile }) => {
          if (!profile) return <NotYet slug={slug} scope={scope} />;
          const other = second.data?.profile ?? null;
          const chosen = params.get("field") ?? profile.fields[0]?.name ?? "";
          const field = profile.fields.find(({ name }) => name === chosen);
          const otherField = other?.fields.find(({ name }) => name === chosen);
          return (
            <div className={`grid h-full min-h-0 ${other ? "grid-cols-[1fr_34rem]" : "grid-cols-[1fr_24rem]"}`}>
              <Pane label="Fields" className="px-4">
                <p className="pt-2 text-sm text-soft">
                  {counted(profile.records, "record")}
                  {other && (
                    <>
                      {" "}
                      (<span className="text-marine">above</span>) and {counted(other.records, "record")} (
                      <span className="text-rust">below</span>)
                    </>
                  )}
                </p>
                {beside !== null && second.data && !other && <NotYet slug={slug} scope={beside} />}
                <ProfileTable
                  fields={profile.fields}
                  beside={other?.fields ?? null}
                  chosen={chosen}
                  onChoose={(name) => set("field", name)}
                />
              </Pane>
              <Pane label="The chosen field" className="border-l border-line px-4 py-2">
                <h2 className="font-semibold">{field?.label}</h2>
                <div className={other ? "grid grid-cols-2 gap-6" : ""}>
                  {field && <FieldDetail slug={slug} scope={scope} profile={field} oddLetters={profile.odd_letters} />}
                  {otherField && other && (
                    <FieldDetail slug={slug} scope={beside ?? ""} profile={otherField} oddLetters={other.odd_letters} />
                  )}
                </div>
              </Pane>
            </div>
          );
        }}
      </Faces>
    </Page>
  );
}
