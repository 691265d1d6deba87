// One typed client of the service, and its problems as errors.
import { t } from "@lingui/core/macro";
import createClient from "openapi-fetch";
import { patient } from "./patient";
import type { components, paths } from "./schema";

export type Row = components["schemas"]["Row"];
export type Tracker = components["schemas"]["Tracker"];
export type Tab = components["schemas"]["Tab"];
export type Column = components["schemas"]["Column"];
export type ChangeSet = components["schemas"]["ChangeSet"];
export type Change = components["schemas"]["Change"];
export type Problem = components["schemas"]["Problem"];
export type Run = components["schemas"]["Run"];
export type Definition = components["schemas"]["Definition"];
export type Today = components["schemas"]["Today"];
export type Letter = components["schemas"]["Letter"];
export type Why = components["schemas"]["Why"];
export type CellsTouched = components["schemas"]["CellsTouched"];
export type Session = components["schemas"]["Session"];
export type Person = components["schemas"]["Person"];
export type JournalEntry = components["schemas"]["JournalEntry"];
export type Conflict = components["schemas"]["Conflict"];
export type SyncDetail = components["schemas"]["SyncDetail"];
export type ListWrite = components["schemas"]["ListWrite"];
export type Reading = components["schemas"]["Reading"];
export type ReadSheet = components["schemas"]["ReadSheet"];
export type ReadTable = components["schemas"]["ReadTable"];
export type Page = components["schemas"]["Page"];
export type PageRef = components["schemas"]["PageRef"];
export type Tally = components["schemas"]["Tally"];
export type EntryForm = components["schemas"]["EntryForm"];
export type FormName = components["schemas"]["FormName"];
export type ListSample = components["schemas"]["ListSample"];
export type MailServerFound = components["schemas"]["MailServerFound"];
export type MailServerSet = components["schemas"]["MailServerSet"];
export type Tried = components["schemas"]["Tried"];
export type Token = components["schemas"]["Token"];
export type DefinitionChange = components["schemas"]["DefinitionChange"];
export type Scheduled = components["schemas"]["Scheduled"];
export type Untidy = components["schemas"]["Untidy"];
export type LiveEvent = {
  seq: number;
  trackers: string[]; // ids of all that it concerns
  who: string;
  says: string;
  rows: Row[];
  gone: string[];
  reload?: boolean;
};

export const api = createClient<paths>({
  baseUrl: window.location.origin,
  credentials: "same-origin",
  fetch: patient,
});

export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

// ask gives an answer's data; what the service refuses is thrown.
export async function ask<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const { data, error, response } = await answer.catch(() => {
    throw new ProblemError({
      type: "urn:kavlo:away",
      title: t`Not reachable`,
      status: 0,
      detail: t`The service does not answer. What you typed was not saved.`,
    });
  });
  if (error !== undefined || !response.ok) {
    const p = error as Problem | undefined;
    throw new ProblemError(
      p?.detail
        ? p
        : {
            type: "urn:kavlo:http",
            title: response.statusText,
            status: response.status,
            detail: t`The service answered ${response.status}.`,
          },
    );
  }
  return data as T;
}

export function problemOf(err: unknown): Problem {
  if (err instanceof ProblemError) return err.problem;
  return {
    type: "urn:kavlo:console",
    title: t`Unexpected`,
    status: 0,
    detail: err instanceof Error ? err.message : String(err),
  };
}

/** What sends a file as it is, as the body of a request. */
export const fileBody = (file: File) => ({
  body: file as unknown as string,
  bodySerializer: (body: unknown) => body as File,
  headers: { "Content-Type": "application/octet-stream" },
});
