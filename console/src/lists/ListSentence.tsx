// Where records are kept elsewhere, how to sign in, and how they are written back.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Line } from "../automation/Line";
import { Input, Select } from "antd";
import { NameLine } from "../automation/NameLine";
import { Link } from "react-router";
import type { Parts } from "../automation/DefinitionEditor";
import { fields, text, without } from "../rules/body";
import { placeholders, sourceOf, sources, sourceSays, withFrom, type Source } from "./body";

const pagings = [
  { value: "", label: t`all at once` },
  { value: "link", label: t`page by page, by the Link header` },
  { value: "page", label: t`page by page, by number` },
  { value: "cursor", label: t`page by page, by a cursor` },
];

const writes = [
  { way: "add", word: t`add`, label: t`How records are written: add`, like: "POST /lenders" },
  { way: "change", word: t`change`, label: t`How records are written: change`, like: "PATCH /lenders/{id}" },
  { way: "remove", word: t`remove`, label: t`How records are written: remove`, like: "DELETE /lenders/{id}" },
];

export function ListSentence({ body, setBody }: Parts) {
  const from = fields(body.from);
  const source = sourceOf(body);
  const next = typeof from.next === "string" ? from.next : (Object.keys(fields(from.next))[0] ?? "");
  const send = fields(body.send);
  const put = (more: Record<string, unknown>) => setBody(withFrom(body, more));
  const short = (label: string, key: string, placeholder: string) => (
    <span className="inline-fields">
      {label}
      <Input
        aria-label={label}
        value={text(from[key])}
        placeholder={placeholder}
        onChange={(e) => put({ [key]: e.target.value })}
        style={{ width: 150 }}
      />
    </span>
  );
  const paged = (label: string, key: string, placeholder: string) => (
    <>
      {label}
      <Input
        aria-label={t`Paging: ${label}`}
        value={text(fields(from.next)[key])}
        placeholder={placeholder}
        onChange={(e) => put({ next: { ...fields(from.next), [key]: e.target.value } })}
        style={{ width: 110 }}
      />
    </>
  );
  return (
    <>
      <NameLine body={body} setBody={setBody} />
      <Line word={t`From`}>
        <div className="rule-parts">
          <Select
            aria-label={t`Kind of list`}
            value={source}
            options={sources.map((s) => ({ value: s, label: sourceSays[s] }))}
            onChange={(to: Source) => setBody({ ...body, from: { [to]: "" } })}
            popupMatchSelectWidth={false}
          />
          <Input
            aria-label={t`Address`}
            value={text(from[source])}
            placeholder={placeholders[source]}
            onChange={(e) => put({ [source]: e.target.value })}
            style={{ width: 420 }}
          />
          {source === "http" && short(t`records at`, "items", "/records")}
          {source === "http" && (
            <span className="inline-fields">
              <Trans>
                fetched
                <Select
                  aria-label={t`Paging`}
                  value={next}
                  options={pagings}
                  onChange={(way: string) =>
                    put({
                      next:
                        way === "page" ? { page: "page" } : way === "cursor" ? { cursor: "/next", as: "after" } : way,
                    })
                  }
                  popupMatchSelectWidth={false}
                />
                {next === "page" && paged(t`number in the parameter`, "page", "page")}
                {next === "cursor" && paged(t`cursor at`, "cursor", "/next")}
                {next === "cursor" && paged(t`sent as the parameter`, "as", "after")}
              </Trans>
            </span>
          )}
          {(source === "postgres" || source === "sqlite") && short(t`table`, "table", "lenders")}
          {(source === "http" || source === "postgres" || source === "sqlite") && short(t`id in`, "id", "id")}
        </div>
      </Line>
      {(source === "http" || source === "tasks" || source === "file") && (
        <Line word={t`Sign in`}>
          <div className="rule-parts">
            <span className="inline-fields">
              <Trans>
                with the token
                <Input
                  aria-label={t`Token`}
                  value={text(from.token)}
                  placeholder="${NAME} of a secret"
                  onChange={(e) => put({ token: e.target.value })}
                  style={{ width: 200 }}
                />
              </Trans>
            </span>
            {text(from.token) !== "" && !/^\$\{[A-Za-z_][A-Za-z0-9_]*\}$/.test(text(from.token)) && (
              <span role="alert" className="soon">
                <Trans>
                  Everybody who reads the setup sees this. Save it under <Link to="/workspace">Workspace</Link> and
                  write
                </Trans>{" "}
                <code>{"${NAME}"}</code> <Trans>here.</Trans>
              </span>
            )}
          </div>
        </Line>
      )}
      {source === "http" && (
        <Line word={t`Write`}>
          <div className="rule-parts">
            {writes.map(({ way, word, label, like }) => (
              <span className="inline-fields" key={way}>
                {word}
                <Input
                  aria-label={label}
                  value={text(send[way])}
                  placeholder={like}
                  onChange={(e) => {
                    const to = without({ ...send, [way]: e.target.value });
                    setBody(without({ ...body, send: Object.keys(to).length > 0 ? to : undefined }));
                  }}
                  style={{ width: 190 }}
                />
              </span>
            ))}
            <span className="quiet">
              <Trans>Leave these blank for a list that is only read.</Trans>
            </span>
          </div>
        </Line>
      )}
    </>
  );
}
