// A jump to a page by its title, from anywhere; a name that no page has is said.
import { useMutation } from "@tanstack/react-query";
import { App, Input } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ask, problemOf } from "../api/client";

export function JumpToPage() {
  const [title, setTitle] = useState("");
  const [problem, setProblem] = useState("");
  const navigate = useNavigate();
  const { modal } = App.useApp();
  const go = useMutation({
    mutationFn: () => ask(api.GET("/api/v1/pages", { params: { query: { title: title.trim() } } })),
    onSuccess: (found) => {
      const open = (i: number) => {
        const p = found[i];
        if (!p) return;
        setTitle("");
        setProblem("");
        void navigate(`/t/${p.tracker}/pages/${p.pattern_id}/${p.row}`);
      };
      if (found.length === 1) return open(0);
      const shown = modal.info({
        title: `${found.length} pages are called ${title.trim()}`,
        okText: "Close",
        content: (
          <ul className="plain">
            {found.map((p, i) => (
              <li key={p.pattern_id + p.row}>
                <a
                  href={`/t/${p.tracker}/pages/${p.pattern_id}/${p.row}`}
                  onClick={(e) => {
                    e.preventDefault();
                    shown.destroy();
                    open(i);
                  }}
                >
                  {p.pattern}, {p.archived ? "archived" : `row in ${p.in}`} ({p.row})
                </a>
              </li>
            ))}
          </ul>
        ),
      });
    },
    onError: (err) => setProblem(problemOf(err).detail),
  });
  return (
    <form
      className="jump"
      role="search"
      onSubmit={(e) => {
        e.preventDefault();
        if (title.trim() !== "") go.mutate();
      }}
    >
      <Input
        size="small"
        value={title}
        placeholder="Go to page"
        aria-label="Go to page, by its title"
        onChange={(e) => {
          setTitle(e.target.value);
          setProblem("");
        }}
      />
      {problem !== "" && (
        <p role="status" className="late">
          {problem}
        </p>
      )}
    </form>
  );
}
