// The text of a cell while it is edited, and what of it is saved.
import type { Column, Person } from "../../api/client";
import { typed } from "../format";
import { finished, meant, parts, peopleOptions, type Option } from "./options";
import { readDay, readMoment } from "./readDay";

/** optionsOf gives what a cell of a column can hold, where that is a list. */
export function optionsOf(column: Column, people: Person[]): Option[] | undefined {
  if (column.type === "choice") return column.options?.map((o) => ({ name: o.name, colour: o.colour })) ?? [];
  if (column.type === "person") return peopleOptions(people);
  return undefined;
}

/** written gives a value as its editor writes it. */
export function written(column: Column, value: unknown, people: Person[]): string {
  if (column.type !== "person") return typed(value);
  const names = peopleOptions(people);
  return [value]
    .flat()
    .map((address) => names.find((p) => p.also === address)?.name ?? typed(address))
    .join("; ");
}

/** toSave gives what is saved of a text; what cannot be told is left to the service to read. */
export function toSave(column: Column, text: string, people: Person[], today: string): string {
  if (column.type === "date") return readDay(text, today) ?? text;
  if (column.type === "date-time") return readMoment(text, today) ?? text;
  const options = optionsOf(column, people);
  if (!options) return text;
  if (!column.several) return meant(options, text)?.name ?? text;
  const { chosen, typing } = parts(text);
  return finished([...chosen, meant(options, typing)?.name ?? typing].join("; "));
}
