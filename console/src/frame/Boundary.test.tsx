import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { Boundary } from "./Boundary";
import { BrokenPage } from "./BrokenPage";

beforeEach(() => vi.spyOn(console, "error").mockImplementation(() => undefined));
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

function Page({ broken }: { broken?: string }) {
  if (broken) throw new Error(broken);
  return <p>All is well.</p>;
}

const at = (place: string, broken?: string) => (
  <Boundary at={place} instead={(error) => <BrokenPage error={error} />}>
    <Page broken={broken} />
  </Boundary>
);

it("says what went wrong, until one goes elsewhere", () => {
  const { rerender } = render(at("/a", "x is undefined"));
  expect(screen.getByText("Something went wrong on this page")).toBeTruthy();
  fireEvent.click(screen.getByText("What the browser said"));
  expect(screen.getByText("x is undefined")).toBeTruthy();
  rerender(at("/b"));
  expect(screen.getByText("All is well.")).toBeTruthy();
});

it("waits for the service where a page's scripts did not come", () => {
  render(at("/a", "Failed to fetch dynamically imported module"));
  expect(screen.getByText("This page could not be loaded")).toBeTruthy();
});
