import { Dialog, DialogPanel } from "@headlessui/react";
import { lazy, type ReactNode, Suspense, useEffect, useMemo, useRef } from "react";
import { useParams } from "react-router";
import { mayIn, type Permission, useWho, type Who } from "../api/who";
import { type Rights, RightsContext, Trouble } from "../ui";

const fetchSignIn = () => import("../features/people").then(({ SignInPage }) => ({ default: SignInPage }));
const SignInPage = lazy(fetchSignIn);

function rightsOf(who: Who, slug: string | undefined): Rights {
  const anywhere = (act: Permission) =>
    who.everywhere.includes(act) || who.registers.some(({ acts }) => acts.includes(act));
  return {
    may: (act, everywhere = false) => {
      if (everywhere) return who.everywhere.includes(act);
      return slug === undefined ? anywhere(act) : mayIn(who, slug, act);
    },
    says: (act) => {
      const named = who.acts.find((one) => one.act === act);
      return named ? `Only ${named.who_may} may ${named.says}.` : "This is not for you to do.";
    },
  };
}

/**
 * Lets in who is signed in. If that ends while somebody works, the work stays where it is, below the page for signing in, and goes on when
 * the same person is back.
 */
export function Gate({ children }: { children: ReactNode }) {
  const { slug } = useParams();
  const asked = useWho();
  const who = asked.data;
  const last = useRef<Who>(undefined);
  if (who?.name) last.current = who;
  const inside = last.current;
  useEffect(() => {
    // Who is signed out in the middle of work must not lose it because this page can't be fetched any more.
    void fetchSignIn();
  }, []);
  const rights = useMemo(() => inside && rightsOf(inside, slug), [inside, slug]);
  if (!who)
    return asked.error ? (
      <div className="p-6">
        <Trouble error={asked.error} onRetry={() => asked.refetch()} />
      </div>
    ) : null;
  return (
    <>
      {inside && rights && (
        <RightsContext value={rights} key={inside.name}>
          {children}
        </RightsContext>
      )}
      {!who.name && (
        <Suspense>
          {inside ? (
            // A dialog of its own lies above any that is open, which would keep the keyboard to itself.
            <Dialog open onClose={() => undefined} className="relative z-50">
              <DialogPanel className="fixed inset-0 overflow-auto bg-paper">
                <SignInPage who={who} again />
              </DialogPanel>
            </Dialog>
          ) : (
            <SignInPage who={who} again={false} />
          )}
        </Suspense>
      )}
    </>
  );
}
