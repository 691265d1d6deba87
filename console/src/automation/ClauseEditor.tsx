// The editor of a clause: the service checks it while one types, mistakes are underlined with
// what would put them right, and what could stand where one types is offered.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { acceptCompletion, autocompletion, startCompletion, type CompletionContext } from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { linter, type Diagnostic } from "@codemirror/lint";
import { EditorState } from "@codemirror/state";
import { EditorView, keymap } from "@codemirror/view";
import { useEffect, useRef, useState } from "react";
import { api, ask } from "../api/client";
import type { ClauseProps } from "./ClauseField";
import { mended, placeOf, bytesOf } from "./clauseText";

const rest = 200; // milliseconds without a key before it is checked

// A mistake, and what could stand in its place.
type Mistake = { says: string; from: number; to: number; mend?: string };

type Asking = Pick<ClauseProps, "tracker" | "tabs" | "edits" | "kind">;

const check = (of: Asking, text: string, at?: number) =>
  ask(
    api.POST("/api/v1/clauses/check", {
      body: {
        tracker: of.tracker,
        tabs: of.tabs,
        kind: of.kind ?? "condition",
        edit: of.edits ?? false,
        text,
        ...(at === undefined ? {} : { at: bytesOf(text.slice(0, at)) }),
      },
    }),
  );

async function findMistake(of: Asking, text: string): Promise<Mistake | undefined> {
  if (text.trim() === "") return undefined;
  const { mistake } = await check(of, text);
  if (!mistake) return undefined;
  const from = Math.min(placeOf(text, mistake.offset), text.length);
  const to = Math.min(placeOf(text, mistake.offset + mistake.length), text.length);
  return { says: mistake.says, from, to, mend: mended(mistake.says) };
}

async function offers(of: Asking, context: CompletionContext) {
  const text = context.state.doc.toString();
  const { completions = [] } = await check(of, text, context.pos);
  if (completions.length === 0) return null;
  return {
    from: placeOf(text, completions[0]?.from ?? 0),
    options: completions.map((c) => ({ label: c.text, detail: c.says, type: c.kind })),
    filter: false, // the service gives what fits what is typed
  };
}

export default function ClauseEditor({ label, value, onChange, ...of }: ClauseProps) {
  const place = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(undefined);
  const [mistake, setMistake] = useState<Mistake>();
  const current = useRef({ of, onChange, value });
  useEffect(() => {
    current.current = { of, onChange, value };
  });
  useEffect(() => {
    if (!place.current) return;
    const lint = async (editor: EditorView): Promise<Diagnostic[]> => {
      const found = await findMistake(current.current.of, editor.state.doc.toString()).catch(() => undefined);
      setMistake(found);
      if (!found) return [];
      const { mend } = found;
      return [
        {
          from: found.from,
          to: found.to,
          severity: "error",
          message: found.says,
          actions:
            mend === undefined
              ? []
              : [{ name: t`Use ${mend}`, apply: (v, from, to) => v.dispatch({ changes: { from, to, insert: mend } }) }],
        },
      ];
    };
    const editor = new EditorView({
      parent: place.current,
      state: EditorState.create({
        doc: current.current.value,
        extensions: [
          history(),
          keymap.of([
            { key: "Tab", run: acceptCompletion },
            { key: "Alt-ArrowDown", run: startCompletion },
            ...defaultKeymap,
            ...historyKeymap,
          ]),
          autocompletion({ override: [(context) => offers(current.current.of, context)], icons: false }),
          linter(lint, { delay: rest }),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ "aria-label": label, spellcheck: "false" }),
          EditorView.updateListener.of((u) => {
            if (u.docChanged) current.current.onChange(u.state.doc.toString());
          }),
        ],
      }),
    });
    view.current = editor;
    return () => editor.destroy();
  }, [label]);
  useEffect(() => {
    const editor = view.current;
    const now = editor?.state.doc.toString();
    if (editor && now !== value) {
      editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: value } });
    }
  }, [value]);
  const mend = mistake?.mend;
  return (
    <div className="clause-field">
      <div ref={place} className="clause-editor" />
      {value.trim() !== "" && mistake && (
        <div role="alert" className="clause-mistake">
          {mistake.says}{" "}
          {mend !== undefined && (
            <button
              type="button"
              className="clause-mend"
              onClick={() => {
                const { from, to } = mistake;
                view.current?.dispatch({ changes: { from, to, insert: mend } });
                view.current?.focus();
              }}
            >
              <Trans>Use {mend}</Trans>
            </button>
          )}
        </div>
      )}
    </div>
  );
}
