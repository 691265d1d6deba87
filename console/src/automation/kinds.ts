// The kinds of definition that are edited alike, and where the service has them.
import { t } from "@lingui/core/macro";
import { api, ask, type ChangeSet, type Definition, type DefinitionChange, type Tried } from "../api/client";

export type Body = Record<string, unknown>;

export type Kind = {
  name: "rule" | "reminder" | "round" | "list" | "sync" | "tally" | "form" | "dossier" | "view";
  plural: "rules" | "reminders" | "rounds" | "lists" | "syncs" | "tallies" | "forms" | "dossiers" | "views";
  page: string; // the last part of the address of the page that lists them
  title: string; // of that page
  called: string; // what people call one
};

export const kinds: Record<Kind["name"], Kind> = {
  rule: { name: "rule", plural: "rules", page: "rules", title: t`Rules`, called: t`rule` },
  reminder: { name: "reminder", plural: "reminders", page: "reminders", title: t`Reminders`, called: t`reminder` },
  tally: { name: "tally", plural: "tallies", page: "tallies", title: t`Charts`, called: t`chart` },
  form: { name: "form", plural: "forms", page: "forms", title: t`Forms`, called: t`form` },
  dossier: { name: "dossier", plural: "dossiers", page: "pages", title: t`Pages`, called: t`kind of page` },
  view: { name: "view", plural: "views", page: "", title: t`Views`, called: t`view` },
  list: { name: "list", plural: "lists", page: "lists", title: t`Lists`, called: t`list` },
  sync: { name: "sync", plural: "syncs", page: "lists", title: t`Lists`, called: t`sync` },
  round: { name: "round", plural: "rounds", page: "reminders", title: t`Reminders`, called: t`round` },
};

// All kinds have the same operations at addresses of the same form.
type All = "/api/v1/trackers/{tracker}/rules";
type One = "/api/v1/trackers/{tracker}/rules/{definition}";
type Try = "/api/v1/trackers/{tracker}/try/rule";

const all = (k: Kind) => `/api/v1/trackers/{tracker}/${k.plural}` as All;
const one = (k: Kind) => `/api/v1/trackers/{tracker}/${k.plural}/{definition}` as One;

export const list = (k: Kind, tracker: string): Promise<Definition[]> =>
  ask(api.GET(all(k), { params: { path: { tracker } } }));

export const get = (k: Kind, tracker: string, definition: string): Promise<Definition> =>
  ask(api.GET(one(k), { params: { path: { tracker, definition } } }));

/** save adds a definition, or puts it in the place of another, unless somebody has changed that since. */
export function save(k: Kind, tracker: string, body: Body, replaces?: Definition): Promise<ChangeSet> {
  if (replaces === undefined) return ask(api.POST(all(k), { params: { path: { tracker } }, body }));
  const header = { "If-Match": `"${replaces.version}"` };
  return ask(api.PUT(one(k), { params: { path: { tracker, definition: replaces.id }, header }, body }));
}

export const drop = (k: Kind, tracker: string, definition: string): Promise<ChangeSet> =>
  ask(api.DELETE(one(k), { params: { path: { tracker, definition } } }));

/** history tells who changed a definition, when and how. */
export const history = (k: Kind, tracker: string, definition: string): Promise<DefinitionChange[]> =>
  ask(api.GET(`${one(k)}/history` as `${One}/history`, { params: { path: { tracker, definition } } }));

/** tryOut says what a definition that is not saved would be like. */
export const tryOut = (k: Kind, tracker: string, body: Body, replaces?: string): Promise<Tried> =>
  ask(
    api.POST(`/api/v1/trackers/{tracker}/try/${k.name}` as Try, {
      params: { path: { tracker } },
      body: { body, replaces },
    }),
  );
