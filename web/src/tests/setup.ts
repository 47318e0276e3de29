import { cleanup, configure } from "@testing-library/react";
import { afterEach, vi } from "vitest";

/** jsdom lays nothing out and has no streams; these stand in for what the components ask for. */
class NoObserver {
  observe() {}
  unobserve() {}
  disconnect() {}
}

vi.stubGlobal("ResizeObserver", NoObserver);
vi.stubGlobal(
  "EventSource",
  class {
    onmessage: unknown = null;
    close() {}
  },
);

// All files of a process share one page and its modules.
afterEach(() => {
  cleanup();
  localStorage.clear();
  sessionStorage.clear();
  delete document.documentElement.dataset.theme;
  vi.useRealTimers();
  vi.restoreAllMocks();
});

// A busy machine takes longer than the usual second until a page shows what it will.
configure({ asyncUtilTimeout: 30_000 });
