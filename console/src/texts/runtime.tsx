// What the macros of texts become: the language that is spoken, and texts with elements in
// them. English stands in the code; other languages would be loaded here, before any page.
import { setupI18n } from "@lingui/core";
import type { TransProps } from "@lingui/react";
import { TransNoContext } from "@lingui/react/server";

export const i18n = setupI18n({ locale: "en", messages: { en: {} } });

/** Trans is a text with elements and values in it. */
export function Trans({ values, ...rest }: TransProps) {
  return <TransNoContext {...rest} values={values && held(values)} lingui={{ i18n }} />;
}

// held keeps what stands between angle brackets in a value from being taken for an element of
// the text.
function held(values: Record<string, unknown>): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(values).map(([name, v]) => [name, typeof v === "string" && v.includes("<") ? <>{v}</> : v]),
  );
}
