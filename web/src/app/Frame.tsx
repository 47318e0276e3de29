import { lazy, Suspense, useCallback, useEffect, useState } from "react";
import { Link, Outlet, useParams } from "react-router";
import { type Job, useJobEvents } from "../api/jobs";
import { useRegisters } from "../api/registers";
import { Button, Key, notify, Toasts, useKeys } from "../ui";
import { KeysHelp } from "./KeysHelp";
import { Mark } from "./Mark";
import { StageStrip } from "./StageStrip";
import { StatusLine } from "./StatusLine";
import { toggleTheme } from "./theme";
import { WhoAmI } from "./WhoAmI";

type Open = "palette" | "keys" | null;

const fetchPalette = () => import("./Palette").then(({ Palette }) => ({ default: Palette }));
const Palette = lazy(fetchPalette);

function usePaletteKey(open: () => void) {
  useEffect(() => {
    // Not needed for the first page, but there before anybody has typed into it.
    void fetchPalette();
    const onKeyDown = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k") {
        event.preventDefault();
        open();
      }
    };
    window.addEventListener("keydown", onKeyDown);
    return () => window.removeEventListener("keydown", onKeyDown);
  }, [open]);
}

/** The frame of every screen: the line of work above, the status line below. */
export function Frame() {
  const { slug } = useParams();
  const registers = useRegisters().data ?? [];
  const register = registers.find((item) => item.slug === slug);
  const [open, setOpen] = useState<Open>(null);
  usePaletteKey(useCallback(() => setOpen("palette"), []));
  useKeys([{ key: "?", label: "Show these keys", run: () => setOpen("keys") }]);
  const answers = useJobEvents(
    useCallback((job: Job) => {
      if (job.status === "failed") notify(`${job.title}: ${job.message}`, true);
      else notify(`${job.title}: ${job.status}.`);
    }, []),
  );
  return (
    <div className="flex h-full flex-col">
      <a
        href="#work"
        className="absolute top-1 left-1 z-50 -translate-y-20 bg-plum px-3 py-1 text-plum-ink focus:translate-y-0"
      >
        Skip to the work
      </a>
      <header className="flex h-13 items-stretch gap-4 print:hidden border-b border-line-strong bg-paper px-4">
        <Link to="/" className="flex items-center gap-2 font-semibold" aria-label="Odd Pair: all registers">
          <Mark />
          <span>Odd Pair</span>
        </Link>
        {register && <StageStrip registers={registers} register={register} />}
        <div className="ml-auto flex items-center gap-1">
          <Button look="quiet" onClick={() => setOpen("palette")}>
            Go to <Key>Ctrl K</Key>
          </Button>
          <Button look="quiet" onClick={() => setOpen("keys")} aria-label="Show the keys of this screen">
            Keys <Key>?</Key>
          </Button>
          <WhoAmI />
          <Button look="quiet" onClick={toggleTheme} aria-label="Switch between light and dark">
            ◐
          </Button>
        </div>
      </header>
      <main id="work" tabIndex={-1} className="min-h-0 flex-1 focus:outline-none">
        {/* Drafts belong to the register they were begun in: another register gets a screen of its own. */}
        <Outlet key={slug} />
      </main>
      <StatusLine answers={answers} />
      <Toasts />
      {open === "palette" && (
        <Suspense>
          <Palette registers={registers} slug={register?.slug} onClose={() => setOpen(null)} />
        </Suspense>
      )}
      {open === "keys" && <KeysHelp onClose={() => setOpen(null)} />}
    </div>
  );
}
