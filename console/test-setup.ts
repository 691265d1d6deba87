import { configure } from "@testing-library/react";
import { vi } from "vitest";

// Each file has modules of the console of its own, with what they remember. Those of packages
// are loaded once for all files of a worker, which is most of what loading takes.
vi.resetModules();

// A machine that is busy with other things is not wrong: what is awaited may take its time.
configure({ asyncUtilTimeout: 10_000 });

// Tables of the console ask how wide the window is, and jsdom has no answer.
window.matchMedia = ((query: string) => ({
  matches: false,
  media: query,
  addListener: () => undefined,
  removeListener: () => undefined,
  addEventListener: () => undefined,
  removeEventListener: () => undefined,
})) as unknown as typeof window.matchMedia;

// And they watch how large things are, which nothing is in jsdom.
window.ResizeObserver ??= class {
  observe() {}
  unobserve() {}
  disconnect() {}
};

// Styles are for browsers. jsdom would parse every sheet, and hold each element it is asked
// about against every rule, which is most of the time that tests of the console would take.
const create = document.createElement.bind(document);
document.createElement = ((name: string, options?: ElementCreationOptions) => {
  const made = create(name, options);
  if (made instanceof HTMLStyleElement) made.type = "text/plain";
  return made;
}) as typeof document.createElement;
