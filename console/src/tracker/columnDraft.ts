// A column as a form holds it, and as the service takes it.
import type { Column } from "../api/client";

export type ColumnDraft = {
  name: string;
  type: string;
  options: string; // a line each, with or without a colour: Agreed = blue
  format: string;
  clause: string;
  default: string;
  minimum: string;
  maximum: string;
  longest: string;
  required: boolean;
  unique: boolean;
  several: boolean;
  automatic: boolean;
  refuse: boolean;
  after: string;
};

export const fresh: ColumnDraft = {
  name: "",
  type: "text",
  options: "",
  format: "",
  clause: "",
  default: "",
  minimum: "",
  maximum: "",
  longest: "",
  required: false,
  unique: false,
  several: false,
  automatic: false,
  refuse: false,
  after: "",
};

export function draftOf(c: Column): ColumnDraft {
  return {
    ...fresh,
    name: c.name,
    type: c.clause ? "computed" : c.type,
    options: (c.options ?? []).map((o) => (o.colour ? `${o.name} = ${o.colour}` : o.name)).join("\n"),
    format: c.format ?? "",
    clause: c.clause ?? "",
    default: c.default ?? "",
    minimum: c.minimum ?? "",
    maximum: c.maximum ?? "",
    longest: c.longest_text ? String(c.longest_text) : "",
    required: c.required ?? false,
    unique: c.unique ?? false,
    several: c.several ?? false,
    automatic: c.automatic_number ?? false,
    refuse: c.bad_input === "refuse",
  };
}

// has says which attributes a type has use for.
export function has(type: string) {
  const stored = type !== "computed";
  const ordered = ["number", "date", "date-time"].includes(type);
  return {
    stored,
    ordered,
    options: type === "choice",
    several: type === "choice" || type === "person",
    number: type === "number",
    text: type === "text",
    computed: !stored,
  };
}

// definitionOf gives the column as the setup file writes it; what is null goes.
export function definitionOf(d: ColumnDraft): Record<string, unknown> {
  const use = has(d.type);
  const or = (wanted: boolean, v: unknown) => (wanted && v !== "" && v !== false ? v : null);
  const options = d.options
    .split("\n")
    .map((line) => line.split("=").map((s) => s.trim()))
    .filter(([name]) => name);
  return {
    type: d.type,
    clause: or(use.computed, d.clause),
    options: or(
      use.options && options.length > 0,
      options.map(([name, colour]) => ({ [name ?? ""]: colour ?? "" })),
    ),
    several: or(use.several, d.several),
    format: or(use.number, d.format),
    default: or(use.stored, d.default),
    minimum: or(use.ordered, d.minimum),
    maximum: or(use.ordered, d.maximum),
    "longest text": or(use.text && /^\d+$/.test(d.longest), Number(d.longest)),
    "automatic number": or(use.number, d.automatic),
    required: or(use.stored, d.required),
    unique: or(use.stored, d.unique),
    "bad input": or(use.stored, d.refuse && "refuse"),
  };
}
