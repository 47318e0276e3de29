import { useState } from "react";
import { moment } from "../../domain/format";
import { Button, CELL, Faces, Heads, notify } from "../../ui";
import { useEndToken, useTokens } from "./queries";
import { TokenDialog } from "./TokenDialog";

/** What programs show instead of a password. */
export function TokensPart() {
  const [making, setMaking] = useState(false);
  const end = useEndToken();
  return (
    <section aria-label="Tokens for programs" className="max-w-4xl">
      <div className="mb-2 flex items-baseline gap-4">
        <h2 className="font-semibold">Tokens for programs</h2>
        <p className="text-sm text-soft">
          A program shows one instead of a password, and acts under your name: <code>Authorization: Bearer …</code>
        </p>
      </div>
      <Faces query={useTokens()} rows={1}>
        {(tokens) =>
          tokens.length > 0 && (
            <table className="mb-2 w-full text-sm">
              <thead>
                <Heads titles={["Token", "May act as", "In", "Last day", "Last used", ""]} unseen="End" />
              </thead>
              <tbody>
                {tokens.map(({ id, label, roles, registers, ends_on, used_at }) => (
                  <tr key={id}>
                    <td className={`${CELL} font-medium`}>{label}</td>
                    <td className={CELL}>{roles.join(", ")}</td>
                    <td className={CELL}>{registers ? registers.join(", ") : "every register"}</td>
                    <td className={CELL}>{ends_on}</td>
                    <td className={CELL}>{used_at ? moment(used_at) : "never"}</td>
                    <td className={`${CELL} text-right`}>
                      <Button
                        look="quiet"
                        small
                        disabled={end.isPending}
                        onClick={() => end.mutate(id, { onError: (error) => notify(error, true) })}
                      >
                        End it
                      </Button>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )
        }
      </Faces>
      <Button onClick={() => setMaking(true)}>Make a token…</Button>
      {making && <TokenDialog onClose={() => setMaking(false)} />}
    </section>
  );
}
