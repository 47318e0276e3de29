import { useEffect, useRef } from "react";
import { client, unwrap } from "../../api/client";
import { deskId } from "../../api/me";
import { notify } from "../../ui";

/** How often a desk says that it still has its doubt; it stays three minutes with one that says nothing. */
const RENEW_MS = 60_000;

/** Have the doubt in view for oneself; when another desk has it, say who and go on. */
export function useLease(slug: string, leftId: number, rightId: number, onTaken: () => void) {
  const goOn = useRef(onTaken);
  goOn.current = onTaken;
  useEffect(() => {
    if (!leftId || !rightId) return;
    let gone = false;
    const take = async () => {
      const body = { left_id: leftId, right_id: rightId, desk: deskId() };
      const { holder } = await unwrap(
        client.POST("/api/registers/{slug}/review/leases", { params: { path: { slug } }, body }),
      );
      if (!holder || gone) return;
      notify(`${holder} has this one at another desk; here is the next.`);
      goOn.current();
    };
    // Nobody is kept from working by a lease that could not be asked for: the decision itself is checked again.
    const tryTo = () => void take().catch(() => undefined);
    tryTo();
    const renewing = setInterval(tryTo, RENEW_MS);
    return () => {
      gone = true;
      clearInterval(renewing);
    };
  }, [slug, leftId, rightId]);
  useEffect(() => {
    const leave = () =>
      void fetch(`/api/review/leases/${encodeURIComponent(deskId())}`, { method: "DELETE", keepalive: true }).catch(
        () => undefined,
      );
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }, []);
}
