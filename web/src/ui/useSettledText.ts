import { useEffect, useState } from "react";

/** A text that changes only when nobody has typed for a moment. */
export function useSettledText(text: string, ms: number): string {
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text), ms);
    return () => clearTimeout(timer);
  }, [text, ms]);
  return settled;
}
