import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/atkinson-hyperlegible-mono";
import "@fontsource-variable/ibm-plex-sans";
import "./tokens/theme.css";
import { MutationCache, QueryCache, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { RouterProvider } from "react-router";
import { ProblemError, WaitsForSignOff } from "./api/client";
import { FreshQueries } from "./api/freshQueries";
import { askWhoIsIn } from "./api/who";
import { router } from "./app/routes";
import { notify } from "./ui";

function noteRefusal(error: Error) {
  if (error instanceof ProblemError && error.status === 401) void askWhoIsIn(queries);
}

/** What waits for sign-off is told here for every screen; the lists that it changes are asked for anew. */
function settle(error: Error) {
  noteRefusal(error);
  if (!(error instanceof WaitsForSignOff)) return;
  notify(error.message);
  void queries.invalidateQueries();
}

const queries = new FreshQueries({
  // An answer that nobody is signed in any more lets the frame ask who is; what was typed stays where it is.
  queryCache: new QueryCache({ onError: noteRefusal }),
  mutationCache: new MutationCache({ onError: settle }),
  // The server is this machine, so what the browser says of its network does not matter.
  defaultOptions: {
    queries: { retry: false, staleTime: 5_000, refetchOnWindowFocus: false, networkMode: "always" },
    mutations: { networkMode: "always" },
  },
});

const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  );
