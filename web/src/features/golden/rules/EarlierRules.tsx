import { moment } from "../../../domain/format";
import { Button, Faces, notify, Trouble } from "../../../ui";
import { useEarlierRules, usePutRulesBack } from "./queries";

/** Earlier changes of the rules; each can be taken back in one step. */
export function EarlierRules({ slug, version }: { slug: string; version: number }) {
  const earlier = useEarlierRules(slug);
  const putBack = usePutRulesBack(slug);
  const onSuccess = () => notify("The rules from before are in force; golden records follow in the background.");
  return (
    <Faces query={earlier}>
      {(steps) =>
        steps.length === 0 ? (
          <p className="text-sm text-soft">The rules are those that the register began with.</p>
        ) : (
          <>
            <ul className="text-sm">
              {steps.map((step) => (
                <li key={step.entry_id} className="flex items-baseline gap-2 border-b border-line py-1">
                  <span className="whitespace-nowrap text-soft">{moment(step.at)}</span>
                  <span className="min-w-0 flex-1">
                    {step.summary} <span className="text-soft">({step.actor})</span>
                  </span>
                  <Button
                    needs="rule"
                    look="quiet"
                    disabled={putBack.isPending}
                    onClick={() => putBack.mutate({ entryId: step.entry_id, seenVersion: version }, { onSuccess })}
                  >
                    Take back
                  </Button>
                </li>
              ))}
            </ul>
            {putBack.error && <Trouble error={putBack.error} />}
          </>
        )
      }
    </Faces>
  );
}
