import { describe, expect, it } from "vitest";
import { ask, ProblemError, problemOf } from "./client";

const answer = (status: number, body: { data?: unknown; error?: unknown }) =>
  Promise.resolve({ ...body, response: new Response(null, { status }) });

describe("ask", () => {
  it("gives the data of an answer", async () => {
    expect(await ask(answer(200, { data: 7 }))).toBe(7);
  });

  it("throws the service's own problem", async () => {
    const problem = {
      type: "urn:kavlo:bad-value",
      title: "The value does not fit",
      status: 422,
      detail: "Due: no date",
    };
    await expect(ask(answer(422, { error: problem }))).rejects.toThrow("Due: no date");
    await expect(ask(answer(502, { error: "<html>" }))).rejects.toThrow("The service answered 502.");
  });

  it("says when the service does not answer", async () => {
    await expect(ask(Promise.reject(new TypeError("failed to fetch")))).rejects.toThrow("was not saved");
  });
});

it("makes a problem of anything", () => {
  expect(problemOf(new Error("x")).detail).toBe("x");
  expect(problemOf("y").detail).toBe("y");
  const p = { type: "t", title: "t", status: 409, detail: "d" };
  expect(problemOf(new ProblemError(p))).toBe(p);
});
