// A mail as a mail program shows it, in a frame where nothing of it can run.
import { t } from "@lingui/core/macro";
import { Segmented } from "antd";
import { useState } from "react";

type View = "Email" | "Plain text" | "Source";

export function Sheet({ html, text, raw }: { html?: string; text?: string; raw?: string }) {
  const [view, setView] = useState<View>("Email");
  const views: { value: View; label: string }[] = [
    { value: "Email", label: t`Email` },
    { value: "Plain text", label: t`Plain text` },
  ];
  if (raw) views.push({ value: "Source", label: t`Source` });
  return (
    <>
      <Segmented<View> size="small" options={views} value={view} onChange={setView} style={{ marginBottom: 10 }} />
      {view === "Email" && <iframe className="sheet" title={t`The mail`} sandbox="" srcDoc={html ?? ""} />}
      {view === "Plain text" && <pre className="sheet-text">{text}</pre>}
      {view === "Source" && <pre className="sheet-text">{raw}</pre>}
    </>
  );
}
