// Signing in: a one-time link opens a session by itself; without one, a link's
// secret or a token can be pasted.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useCallback, useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import { forget } from "../tracker/stores";
import { goBackTo } from "./cameFrom";

export function SignInPage() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [error, setError] = useState<unknown>();
  const [secret, setSecret] = useState("");
  const tried = useRef("");
  const signIn = useCallback(
    async (text: string) => {
      setError(undefined);
      try {
        const secret = text.trim().replace(/^.*#/, "");
        const { person } = await ask(api.POST("/api/v1/session", { body: { secret } }));
        queries.clear(); // nothing of whoever was here before
        forget();
        await navigate(goBackTo(person.id), { replace: true });
      } catch (err) {
        setError(err);
      }
    },
    [navigate, queries],
  );
  useEffect(() => {
    // The page may stand open already when a link is followed.
    const follow = () => {
      const fromLink = window.location.hash.slice(1);
      if (!fromLink || tried.current === fromLink) return;
      tried.current = fromLink; // a link serves once
      window.history.replaceState(null, "", "/sign-in");
      void signIn(fromLink);
    };
    follow();
    window.addEventListener("hashchange", follow);
    return () => window.removeEventListener("hashchange", follow);
  }, [signIn]);
  return (
    <main className="page" style={{ maxWidth: 440, margin: "12vh auto 0", height: "auto" }}>
      <h1>
        <Trans>Sign in to Kavlo</Trans>
      </h1>
      <p className="quiet">
        <Trans>Open your one-time sign-in link, or paste it or a token here. An admin gives you one.</Trans>
      </p>
      {error !== undefined && <ProblemNote error={error} />}
      <form
        style={{ display: "flex", gap: 8, marginTop: 14 }}
        onSubmit={(e) => {
          e.preventDefault();
          void signIn(secret);
        }}
      >
        <Input.Password
          aria-label={t`Sign-in link or token`}
          placeholder={t`Sign-in link or token`}
          value={secret}
          autoFocus
          onChange={(e) => setSecret(e.target.value)}
        />
        <Button type="primary" htmlType="submit" disabled={secret.trim() === ""}>
          {t`Sign in`}
        </Button>
      </form>
    </main>
  );
}
