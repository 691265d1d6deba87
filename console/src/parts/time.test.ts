import { expect, it } from "vitest";
import { when, whenThere } from "./time";

const now = new Date("2026-11-28T12:00:00Z");

it("writes today's times by their hour, and others by their day", () => {
  expect(whenThere("2026-11-28T08:30:00Z", "UTC", now)).toMatch(/^today 08:30/);
  expect(whenThere("2026-11-30T08:30:00Z", "UTC", now)).toContain("30");
  expect(when("2026-11-28T12:00:00Z", now)).toMatch(/^today/);
  expect(when("", now)).toBe("");
});

it("names the tracker's zone where the browser's differs", () => {
  const here = Intl.DateTimeFormat().resolvedOptions().timeZone;
  expect(whenThere("2026-11-28T08:30:00Z", here, now)).not.toContain("(");
  expect(whenThere("2026-11-28T08:30:00Z", "Pacific/Auckland", now)).toMatch(/21:30 \(Pacific\/Auckland\)$/);
  expect(whenThere("2026-11-28T08:30:00Z", "Nowhere/At_all", now)).not.toContain("Invalid");
});
