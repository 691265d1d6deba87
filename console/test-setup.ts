import { configure } from "@testing-library/react";

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
