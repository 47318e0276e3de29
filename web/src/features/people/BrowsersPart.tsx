import { moment } from "../../domain/format";
import { browserInWords } from "../../domain/people";
import { Button, CELL, Faces, Heads, notify } from "../../ui";
import { useBrowsers, useEndBrowsers } from "./queries";

/** Where one is signed in. */
export function BrowsersPart() {
  const end = useEndBrowsers();
  const told = { onError: (error: Error) => notify(error, true) };
  return (
    <section aria-label="Where you are signed in" className="max-w-4xl">
      <h2 className="mb-2 font-semibold">Where you are signed in</h2>
      <Faces query={useBrowsers()} rows={2}>
        {(browsers) => (
          <>
            <table className="w-full text-sm">
              <thead>
                <Heads titles={["Browser", "Address", "Since", "Last used", ""]} unseen="End" />
              </thead>
              <tbody>
                {browsers.map(({ id, browser, address, at, seen_at, this_one }) => (
                  <tr key={id}>
                    <td className={`${CELL} font-medium`}>{browserInWords(browser)}</td>
                    <td className={CELL}>{address}</td>
                    <td className={CELL}>{moment(at)}</td>
                    <td className={CELL}>{moment(seen_at)}</td>
                    <td className={`${CELL} text-right`}>
                      {this_one ? (
                        <span className="text-soft">this one</span>
                      ) : (
                        <Button look="quiet" small disabled={end.isPending} onClick={() => end.mutate(id, told)}>
                          Sign out there
                        </Button>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            {browsers.length > 1 && (
              <Button className="mt-2" disabled={end.isPending} onClick={() => end.mutate(undefined, told)}>
                Sign out everywhere but here
              </Button>
            )}
          </>
        )}
      </Faces>
    </section>
  );
}
