import type { Who } from "../../api/who";
import { Trouble } from "../../ui";
import { useSignInAs } from "./queries";

/** The made-up people of the demo: one press, and one is one of them. */
export function DemoPeople({ people }: { people: Who["demo_people"] }) {
  const signIn = useSignInAs();
  return (
    <section aria-label="People of the demo">
      <p className="mb-2 text-sm">
        This is the demo of the made-up <b>Kittiwake Chandlery Group</b>. Its people need no password, on this machine
        only. Who are you?
      </p>
      <ul className="overflow-hidden rounded-[4px] border border-line-strong bg-sheet">
        {people.map(({ name, says }) => (
          <li key={name} className="border-b border-line last:border-b-0">
            <button
              type="button"
              disabled={signIn.isPending}
              onClick={() => signIn.mutate(name)}
              className="flex w-full items-baseline justify-between gap-4 px-3 py-2 text-left hover:bg-plum-wash"
            >
              <span className="font-medium">{name}</span>
              <span className="text-sm text-soft">{says}</span>
            </button>
          </li>
        ))}
      </ul>
      {signIn.error && (
        <div className="mt-2">
          <Trouble error={signIn.error} />
        </div>
      )}
    </section>
  );
}
