import { moment } from "../../domain/format";
import { Button, Faces, notify, Trouble } from "../../ui";
import { type Saved, type SendOut, useForgetSendOut, useRunSendOut, useSendOuts } from "./queries";

/** Fetch a file as a link would. */
function fetchFile(address: string) {
  const link = document.createElement("a");
  link.href = address;
  link.download = "";
  link.click();
}

function about({ content, last_at }: Saved): string {
  const parts = [content.table === "golden" ? "golden records" : content.table, content.file_format.toUpperCase()];
  return `${parts.join(", ")}; ${last_at ? `last run ${moment(last_at)}` : "not run yet"}`;
}

/** Send-outs that were saved under a name: run by a button here, or by command. */
export function SavedSendOuts({ slug, onOpen }: { slug: string; onOpen: (sendOut: SendOut, name: string) => void }) {
  const saved = useSendOuts(slug);
  const run = useRunSendOut(slug);
  const forget = useForgetSendOut(slug);
  const error = run.error ?? forget.error;
  return (
    <Faces query={saved}>
      {(items) =>
        items.length === 0 ? (
          <p className="text-sm text-soft">
            A send-out keeps its table, fields, filter and form under a name. One of changes sends what changed since
            its last run.
          </p>
        ) : (
          <>
            <ul className="text-sm">
              {items.map((item) => (
                <li key={item.name} className="border-b border-line py-1.5">
                  <div className="flex items-center gap-2">
                    <button
                      type="button"
                      className="min-w-0 flex-1 truncate text-left font-medium text-plum hover:underline"
                      onClick={() => onOpen(item.content, item.name)}
                    >
                      {item.name}
                    </button>
                    <Button
                      small
                      disabled={run.isPending}
                      aria-label={`Run ${item.name}`}
                      onClick={() => run.mutate(item.name, { onSuccess: ({ address }) => fetchFile(address) })}
                    >
                      Run
                    </Button>
                    <Button
                      needs="keep"
                      look="quiet"
                      small
                      aria-label={`Remove ${item.name}`}
                      onClick={() => forget.mutate(item.name, { onSuccess: () => notify(`${item.name} is removed.`) })}
                    >
                      ×
                    </Button>
                  </div>
                  <span className="text-soft text-xs">{about(item)}</span>
                </li>
              ))}
            </ul>
            {error && <Trouble error={error} />}
          </>
        )
      }
    </Faces>
  );
}
