import { expect, it } from "vitest";
import { todayIn, when, whenThere } from "./time";

const now = new Date("2026-11-28T12:00:00Z");

it("writes today's times by their hour, and others by their day", () => {
  expect(whenThere("2026-11-28T08:30:00Z", "UTC", now)).toMatch(/^today 08:30/);
  expect(whenThere("2026-11-30T08:30:00Z", "UTC", now)).toContain("30");
  expect(when("2026-11-28T12:00:00Z", now)).toMatch(/^today/);
  expect(when("", now)).toBe("");
  expect(when("2024-11-30T12:00:00Z", now)).toContain("2024");
  expect(when("2026-11-30T12:00:00Z", now)).not.toContain("2026");
});

it("names the tracker's zone where the browser's differs", () => {
  const here = Intl.DateTimeFormat().resolvedOptions().timeZone;
  expect(whenThere("2026-11-28T08:30:00Z", here, now)).not.toContain("(");
  expect(whenThere("2026-11-28T08:30:00Z", "Pacific/Auckland", now)).toMatch(/21:30 \(Pacific\/Auckland\)$/);
  expect(whenThere("2026-11-28T08:30:00Z", "Nowhere/At_all", now)).not.toContain("Invalid");
});

it("gives the day that it is in a zone", () => {
  const late = new Date("2026-11-27T23:30:00Z");
  expect(todayIn("UTC", late)).toBe("2026-11-27");
  expect(todayIn("Asia/Tokyo", late)).toBe("2026-11-28");
  expect(todayIn("Nowhere/None", late)).toMatch(/^2026-11-2[78]$/);
});
