// A mail as a mail program shows it, in a frame where nothing of it can run.
import { Segmented } from "antd";
import { useState } from "react";

type View = "As mail" | "Plain text" | "As it came";

export function Sheet({ html, text, raw }: { html?: string; text?: string; raw?: string }) {
  const [view, setView] = useState<View>("As mail");
  const views: View[] = raw ? ["As mail", "Plain text", "As it came"] : ["As mail", "Plain text"];
  return (
    <>
      <Segmented<View> size="small" options={views} value={view} onChange={setView} style={{ marginBottom: 10 }} />
      {view === "As mail" && <iframe className="sheet" title="The mail" sandbox="" srcDoc={html ?? ""} />}
      {view === "Plain text" && <pre className="sheet-text">{text}</pre>}
      {view === "As it came" && <pre className="sheet-text">{raw}</pre>}
    </>
  );
}
