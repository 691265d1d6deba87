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
