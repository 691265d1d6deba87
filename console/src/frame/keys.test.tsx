import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import { useRegions } from "./useRegions";

afterEach(cleanup);

function Page() {
  useRegions();
  return (
    <>
      <header className="top">
        <button>Go to</button>
      </header>
      <nav id="side">
        <a href="/a">First</a>
        <a href="/b">Second</a>
      </nav>
      <main id="page">
        <div>
          <input aria-label="Name" />
        </div>
      </main>
    </>
  );
}

it("goes from part to part with F6, back to where one was in it", () => {
  Element.prototype.getClientRects = () => [{}] as unknown as DOMRectList; // nothing is laid out here
  render(<Page />);
  const at = () => document.activeElement?.textContent || document.activeElement?.getAttribute("aria-label");
  const f6 = (shiftKey = false) => fireEvent.keyDown(document.activeElement ?? document, { key: "F6", shiftKey });
  screen.getByText("Second").focus();
  f6();
  expect(at()).toBe("Name");
  f6();
  expect(at()).toBe("Go to");
  f6();
  expect(at()).toBe("Second");
  f6(true);
  expect(at()).toBe("Go to");
});
