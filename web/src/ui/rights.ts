import { createContext, useContext } from "react";
import type { Permission } from "../api/who";
import { notify } from "./toast";

/** What may be done where one is: in the register of the address, or (`everywhere`) with what all registers share. */
export interface Rights {
  may: (act: Permission, everywhere?: boolean) => boolean;
  /** Who may, as a sentence. */
  says: (act: Permission) => string;
}

const EVERYTHING: Rights = { may: () => true, says: () => "" };
export const RightsContext = createContext<Rights>(EVERYTHING);

export const useRights = () => useContext(RightsContext);

/** Returns what says who may do an act, where the person may not; nothing where they may. */
export function useRefusal() {
  const rights = useRights();
  return (act: Permission | undefined, everywhere = false): (() => void) | undefined =>
    act === undefined || rights.may(act, everywhere) ? undefined : () => notify(rights.says(act), true);
}
