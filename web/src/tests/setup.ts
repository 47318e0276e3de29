import { cleanup } from "@testing-library/react";
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

afterEach(() => {
  cleanup();
  localStorage.clear();
});
