import { expect, it } from "vitest";
import { readClock, writeClock } from "./clock";

it("takes schedules apart and writes them again", () => {
  for (const text of [
    "daily at 7:00",
    "weekdays at 08:30",
    "mondays at 9:00",
    "monthly on day 1 at 06:00",
    "every 2 hours",
    "monthly on last friday at 16:00",
    "daily at 7:00 and 16:00",
  ]) {
    expect(writeClock(readClock(text)), text).toBe(text);
  }
  expect(readClock("Monday at 9:00")).toEqual({ every: "week", day: "monday", at: "9:00" });
  expect(readClock("daily at 7:00 and 16:00").every).toBe("other");
});
