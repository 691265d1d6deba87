import { describe, expect, it } from "vitest";
import { dayOf, plusDays, readDay, readMoment } from "./readDay";

const today = "2026-11-27"; // a Friday

describe("days as people type them", () => {
  it.each([
    ["today", "2026-11-27"],
    [" Tomorrow ", "2026-11-28"],
    ["yesterday", "2026-11-26"],
    ["+3", "2026-11-30"],
    ["-2", "2026-11-25"],
    ["+ 2w", "2026-12-11"],
    ["+1 day", "2026-11-28"],
    ["friday", "2026-12-04"], // the one to come, not the one that it is
    ["sat", "2026-11-28"],
    ["next mon", "2026-11-30"],
    ["4 Dec", undefined], // the service reads these
    ["2026-12-04", undefined],
    ["mo", undefined],
    ["next ", undefined],
    ["", undefined],
  ])("%s", (text, day) => expect(readDay(text, today)).toBe(day));

  it("go over the ends of months and years", () => {
    expect(plusDays("2026-12-31", 1)).toBe("2027-01-01");
    expect(plusDays("2028-03-01", -1)).toBe("2028-02-29");
  });

  it("can have a time of day", () => {
    expect(readMoment("friday 14:30", today)).toBe("2026-12-04T14:30");
    expect(readMoment("+1 9.05", today)).toBe("2026-11-28T09:05");
    expect(readMoment("4 Dec 14:30", today)).toBeUndefined();
    expect(dayOf("2026-12-04T08:00", today)).toEqual({ day: "2026-12-04", clock: "08:00", read: undefined });
    expect(dayOf("soon", today)).toEqual({ day: today });
  });
});
